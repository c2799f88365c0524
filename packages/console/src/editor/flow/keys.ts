import type { Shortcut } from '../../state/shortcuts.svelte.js';

/** What the keyboard does on the canvas; `Keys.svelte` does it, this tells it. */
export const CANVAS_KEYS: Shortcut[] = [
  { key: 'a', does: 'add a step' },
  { key: 'arrowdown', does: 'select the next step; arrow up for the previous one, left and right for neighbors' },
  { key: 'enter', does: 'select the step that has the focus' },
  { key: 'delete', does: 'remove the selection' },
  { key: 'ctrl+c', does: 'copy steps; Ctrl X cuts, Ctrl V pastes, also from elsewhere' },
  { key: 'ctrl+d', does: 'duplicate steps' },
  { key: 'ctrl+z', does: 'undo; Ctrl Shift Z redoes' },
  { key: 'o', does: 'enable or disable a step' },
  { key: 'h', does: 'group selected steps' },
  { key: 'l', does: 'arrange the nodes' },
  { key: '1', does: 'zoom to fit' },
];
