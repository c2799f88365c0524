import { untrack } from 'svelte';

/** One key of a page: how it is pressed, what it does, and how it is shown where it is not plain. */
export interface Shortcut {
  /** As `KeyboardEvent.key` has it, in lower case; with `ctrl+` or `shift+` in front. */
  key: string;
  does: string;
  run?: (event: KeyboardEvent) => void;
}
export interface ShortcutGroup {
  title: string;
  keys: Shortcut[];
}

const isField = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable || /^(?:INPUT|TEXTAREA|SELECT)$/.test(target.tagName) || target.role === 'gridcell');

/** The keys that work now: those of the console and those of the page that is open. `?` shows them. */
class Shortcuts {
  groups = $state.raw<ShortcutGroup[]>([]);

  constructor() {
    addEventListener('keydown', (event) => this.#pressed(event));
  }

  /** Adds keys for as long as the effect lives in which it is called. */
  use(title: string, keys: Shortcut[]): () => void {
    const group = { title, keys };
    untrack(() => {
      this.groups = [...this.groups, group];
    });
    return () => {
      this.groups = this.groups.filter((one) => one !== group);
    };
  }

  #pressed(event: KeyboardEvent): void {
    if (event.defaultPrevented || event.isComposing) return;
    const key = pressed(event);
    // Letters belong to the field one types in, and to the window that is open.
    const plain = !key.startsWith('ctrl+');
    if (plain && (isField(event.target) || document.querySelector('[role="dialog"]'))) return;
    const found = this.groups.toReversed().flatMap(({ keys }) => keys.filter((one) => one.key === key && one.run))[0];
    if (!found) return;
    event.preventDefault();
    found.run!(event);
  }
}

/** A key as the list names it: `ctrl+k`, `shift+enter`, `?`. */
export function pressed(event: KeyboardEvent): string {
  const name = event.key.toLowerCase();
  const shift = event.shiftKey && (name.length > 1 || event.ctrlKey || event.metaKey);
  return `${event.ctrlKey || event.metaKey ? 'ctrl+' : ''}${shift ? 'shift+' : ''}${name}`;
}

const SHOWN: Record<string, string> = { arrowup: '↑', arrowdown: '↓', arrowleft: '←', arrowright: '→', ' ': 'Space' };
/** A key as people read it. */
export const keyWords = (key: string) =>
  key
    .split('+')
    .map((part) => SHOWN[part] ?? part.charAt(0).toUpperCase() + part.slice(1))
    .join(' ');

export const shortcuts = new Shortcuts();
