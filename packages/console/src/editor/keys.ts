import type { Shortcut } from '../state/shortcuts.svelte.js';

/** What the keyboard does on the canvas; `Keys.svelte` does it, this tells it. */
export const CANVAS_KEYS: Shortcut[] = [
  { key: 'a', does: 'add a step' },
  { key: 'arrowdown', does: 'go to the step after; arrow up to the one before, left and right to those beside' },
  { key: 'enter', does: 'select the step that has the focus' },
  { key: 'delete', does: 'take out what is selected' },
  { key: 'ctrl+c', does: 'copy steps; Ctrl X cuts, Ctrl V pastes, from anywhere' },
  { key: 'ctrl+d', does: 'duplicate steps' },
  { key: 'ctrl+z', does: 'undo; Ctrl Shift Z does it again' },
  { key: 'o', does: 'switch a step off or on' },
  { key: 'h', does: 'put what is selected under a heading' },
  { key: 'l', does: 'arrange the cards' },
  { key: '1', does: 'see everything' },
];
