import type { Evaluation } from '@pindro/contract/light';
import type { Json } from '@pindro/core/browser';
import { api } from '../state/api.js';
import type { FieldPlace } from './place.js';
import { closed, expressionAt, type Reachable, type Typed, withPath } from './reach.js';

const SHOWN = 40;
const WAIT = 250;

interface Given {
  text: string;
  place: FieldPlace;
  plain: boolean;
  /** Names that may stand here, offered like values. */
  choices: string[];
  take(text: string): void;
}

/** State of a field with expressions: available values, and the preview. */
export class TextEditing {
  element = $state<HTMLTextAreaElement>();
  focused = $state(false);
  /** The expression one is in, if so. */
  word = $state.raw<{ from: number; word: string } | null>(null);
  /** Which value is chosen with the arrow keys; none at first, so that Enter is a new line. */
  at = $state(-1);
  preview = $state.raw<Evaluation | null>(null);
  #closed = $state(false);

  constructor(private readonly given: () => Given) {
    $effect(() => this.#evaluate());
  }

  readonly reach = $derived.by((): Reachable[] => {
    const { place, plain, choices, text } = this.given();
    if (!this.focused || this.#closed) return [];
    if (this.word === null && choices.length > 0)
      return choices.filter((one) => one !== text && one.includes(text)).map((path) => ({ path, about: '' }));
    if (plain || !place.expressions) return [];
    const { word } = this;
    if (!word) return place.data.slice(0, SHOWN);
    const looked = word.word.toLowerCase();
    return place.data.filter(({ path }) => path.toLowerCase().includes(looked) && path !== word.word).slice(0, SHOWN);
  });
  get isOpen(): boolean {
    return this.reach.length > 0;
  }

  typed(text: string, cursor: number): void {
    const { plain, place, text: before } = this.given();
    const mayRefer = !plain && place.expressions;
    const typed = mayRefer ? closed(before, { text, cursor }) : { text, cursor };
    this.#put(typed, typed.text !== text);
    this.#closed = false;
    this.word = mayRefer ? expressionAt(typed.text, cursor) : null;
    // In an expression the first that fits is at hand.
    this.at = this.word && this.word.word !== '' ? 0 : -1;
  }

  entered = (): void => {
    this.focused = true;
    this.#closed = false;
    this.at = -1;
  };

  /** What stands below must not move away under the mouse before it is clicked. */
  left = (): void => {
    const close = () => {
      if (document.activeElement !== this.element) this.focused = false;
      this.word = null;
    };
    const up = () => setTimeout(close, 0);
    addEventListener('pointerup', up, { once: true });
    setTimeout(() => {
      removeEventListener('pointerup', up);
      close();
    }, 180);
  };

  /** @returns whether the key was meant for the values */
  pressed(event: KeyboardEvent): boolean {
    const { isOpen, at, reach } = this;
    if (event.key === 'Escape' && isOpen) {
      this.#closed = true;
      return true;
    }
    if (event.key === '}' && this.#isBeforeBrace()) {
      const { element } = this;
      element!.setSelectionRange(element!.selectionEnd + 1, element!.selectionEnd + 1);
      this.word = null;
      return true;
    }
    if (!isOpen) return false;
    if (event.key === 'ArrowDown' && (at >= 0 || this.#onLastLine())) this.at = Math.min(at + 1, reach.length - 1);
    else if (event.key === 'ArrowUp' && at >= 0) this.at = at - 1;
    else if ((event.key === 'Enter' || (event.key === 'Tab' && this.word)) && at >= 0) this.insert(reach[at]!);
    else return false;
    return true;
  }

  /** Writes a value's path: into the expression one is in, or as one of its own. */
  insert(one: Reachable): void {
    const { text, take, choices } = this.given();
    const element = this.element!;
    if (choices.includes(one.path)) {
      take(one.path);
      this.#closed = true;
      return;
    }
    this.#put(withPath(one.path, { text, cursor: element.selectionStart ?? text.length }), true);
    this.word = null;
    this.at = -1;
    this.#closed = true;
  }

  /** @param moves whether the text is another than the one typed, so that the cursor has to be put in its place */
  #put({ text, cursor }: Typed, moves: boolean): void {
    this.given().take(text);
    if (!moves) return;
    queueMicrotask(() => {
      const wasClosed = this.#closed;
      this.element?.focus();
      this.#closed = wasClosed;
      this.element?.setSelectionRange(cursor, cursor);
    });
  }

  /** Whether the typed brace closes the present expression. */
  #isBeforeBrace(): boolean {
    const { element } = this;
    if (!element || element.selectionStart !== element.selectionEnd) return false;
    const { value, selectionEnd } = element;
    return value[selectionEnd] === '}' && expressionAt(value, selectionEnd) !== null;
  }

  #onLastLine(): boolean {
    const { element } = this;
    return !element?.value.slice(element.selectionEnd).includes('\n');
  }

  /** The service evaluates previews, because it knows expressions. */
  #evaluate(): (() => void) | undefined {
    const { text, place, plain } = this.given();
    if (plain || !place.expressions || !text.includes('${')) {
      this.preview = null;
      return undefined;
    }
    const body = { value: text, input: place.lastInput ?? {}, steps: place.lastOutputs };
    const timer = setTimeout(async () => {
      this.preview = await api.evaluate({ body }).catch(() => null);
    }, WAIT);
    return () => clearTimeout(timer);
  }
}

/** Numbers, yes and no are kept as such where a field takes them; everything else is text. */
export function readScalar(text: string, types: readonly string[]): Json {
  if (text.includes('${')) return text;
  const isNumber = /^-?(?:0|[1-9]\d{0,14})(?:\.\d+)?$/.test(text);
  if (isNumber && (types.includes('number') || types.includes('integer'))) return Number(text);
  if (types.includes('boolean') && (text === 'true' || text === 'false')) return text === 'true';
  return text;
}
