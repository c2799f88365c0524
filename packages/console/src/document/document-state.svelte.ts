import { EditorState } from '@codemirror/state';
import { EditorView } from '@codemirror/view';
import type { FlowDocument } from '@pindro/core/browser';
import type { Editor } from '../editor/session/session.svelte.js';
import type { Mistake } from '../forms/place.js';
import { extensions } from './code-mirror.js';
import { marksOf } from './marks.js';
import { schemaOfFlow } from './schema.js';

const SAVE_AFTER = 400;

/**
 * The draft as text: typed text is saved once it can be parsed, and the canvas follows; changes on the canvas are
 * merged.
 */
export class DocumentState {
  state = $state<'reading' | 'same' | 'typing' | 'unreadable'>('reading');
  faults = $state.raw<Mistake[]>([]);
  #view: EditorView | null = null;
  #timer: ReturnType<typeof setTimeout> | undefined;
  /** The document that the text says, so that a change from elsewhere can be told. */
  #said: FlowDocument | null = null;

  constructor(private readonly editor: Editor) {
    $effect(() => {
      const { document } = this.editor;
      if (this.#said !== null && document !== this.#said && this.state === 'same') void this.#read();
    });
  }

  /** Puts the text into an element of the page. */
  attach = (parent: HTMLElement): (() => void) => {
    void this.#open(parent);
    return () => {
      if (this.state === 'typing') void this.#save();
      clearTimeout(this.#timer);
      this.#view?.destroy();
      this.#view = null;
    };
  };

  async #open(parent: HTMLElement): Promise<void> {
    const [text, schema] = await Promise.all([this.editor.readText(), schemaOfFlow()]);
    // A later edit has moved the position.
    if (!parent.isConnected) return;
    const state = EditorState.create({
      doc: text,
      extensions: [
        ...extensions({ schema, mistakes: () => marksOf(this.#view!.state.doc, this.faults) }),
        EditorView.updateListener.of((update) => {
          if (update.docChanged && !update.transactions.some((one) => one.isUserEvent('reload'))) this.#typed();
        }),
      ],
    });
    this.#view = new EditorView({ state, parent });
    this.#settle();
  }

  #settle(): void {
    this.#said = this.editor.document;
    this.faults = [...this.editor.drawing.mistakes, ...this.editor.drawing.warnings];
    this.state = 'same';
    this.#view?.dispatch({ userEvent: 'reload' });
  }

  /** Somebody drew, or another page saved: the text that is kept is shown, with the cursor where it was. */
  async #read(): Promise<void> {
    const text = await this.editor.readText();
    const view = this.#view;
    if (!view || this.state === 'typing') return;
    const now = view.state.doc.toString();
    if (text !== now) {
      const change = between(now, text);
      view.dispatch({ changes: change, userEvent: 'reload' });
    }
    this.#settle();
  }

  #typed(): void {
    this.state = 'typing';
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => void this.#save(), SAVE_AFTER);
  }

  async #save(): Promise<void> {
    const text = this.#view?.state.doc.toString();
    if (text === undefined) return;
    const mistakes = await this.editor.writeText(text);
    if (this.#view?.state.doc.toString() !== text) return;
    if (mistakes.length === 0) return this.#settle();
    this.faults = mistakes;
    this.state = 'unreadable';
    this.#view?.dispatch({ userEvent: 'reload' });
  }
}

/** What differs between two texts as one change, so that what is before and after it stays where it is. */
function between(old: string, now: string): { from: number; to: number; insert: string } {
  let from = 0;
  while (from < old.length && from < now.length && old[from] === now[from]) from++;
  let back = 0;
  while (back < old.length - from && back < now.length - from && old.at(-1 - back) === now.at(-1 - back)) back++;
  return { from, to: old.length - back, insert: now.slice(from, now.length - back) };
}
