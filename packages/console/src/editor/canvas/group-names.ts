import type { Editor } from '../session/session.svelte.js';

/** Groups the selected steps and edits the name on the canvas; steps of a group are removed from it. */
export function askHeading(editor: Editor): void {
  const names = editor.selected;
  if (names.length === 0) return;
  const present = new Set(names.map((name) => editor.steps[name]?.under ?? ''));
  if (present.size === 1 && !present.has('')) {
    editor.gather(names, '');
    return;
  }
  const taken = new Set(Object.values(editor.steps).map((step) => step.under));
  let heading = 'New group';
  for (let count = 2; taken.has(heading); count++) heading = `New group ${count}`;
  editor.gather(names, heading);
}
