import type { FlowDetail, FlowPreview, ProblemDetails, SavedDraft } from '@pindro/contract';
import {
  addStep,
  changeStep,
  connect,
  copyText,
  disconnect,
  duplicateSteps,
  type FlowDocument,
  isObject,
  type Json,
  type JsonObject,
  type Link,
  pointer,
  readValue,
  removeSteps,
  renameStep,
  type StepDocument,
  stepsAt,
  takeIn,
  withValue,
} from '@pindro/core/browser';
import { api, problemOf } from '../state/api.js';

type Mistake = FlowPreview['mistakes'][number];
type Drawing = Pick<FlowPreview, 'cards' | 'links' | 'bodies' | 'mistakes'>;

/** What was typed within so many milliseconds is undone in one go. */
const ONE_GO = 900;
const SAVE_AFTER = 250;

/** A flow while it is edited: its document, what is selected, undo and redo, and the draft that saves itself. */
export class Editor {
  document = $state.raw<FlowDocument>({} as FlowDocument);
  /** Where the steps shown stand: nothing for the flow, or inside of a loop. */
  place = $state.raw<string[]>([]);
  selected = $state.raw<string[]>([]);
  drawing = $state.raw<Drawing>({ cards: [], links: [], bodies: {}, mistakes: [] });
  state = $state<'saved' | 'unsaved' | 'saving' | 'refused'>('saved');
  problem = $state.raw<ProblemDetails | null>(null);
  canUndo = $state(false);
  canRedo = $state(false);
  #past: FlowDocument[] = [];
  #future: FlowDocument[] = [];
  #last = { key: '', at: 0 };
  #version: number;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #saving: Promise<void> | null = null;

  constructor(
    readonly name: string,
    detail: FlowDetail,
  ) {
    this.document = detail.document as unknown as FlowDocument;
    this.drawing = { cards: detail.cards, links: detail.links, bodies: {}, mistakes: detail.mistakes };
    this.#version = detail.version;
    void this.#look();
  }

  get steps(): { [name: string]: StepDocument } {
    return stepsAt(this.document, this.place);
  }
  get cards(): Drawing['cards'] {
    return this.#here.cards;
  }
  get links(): Drawing['links'] {
    return this.#here.links;
  }
  get #here() {
    return this.place.length === 0
      ? this.drawing
      : (this.drawing.bodies[pointer(this.place)] ?? { cards: [], links: [] });
  }
  /** The one step that is selected, if it is one. */
  get step(): string | null {
    const [name, ...more] = this.selected;
    return name !== undefined && more.length === 0 && name in this.steps ? name : null;
  }
  at(step: string): string[] {
    return [...this.place, 'steps', step];
  }
  /** Mistakes at a path or below it. */
  mistakesAt(path: readonly PropertyKey[], deep = true): Mistake[] {
    const at = pointer(path);
    return this.drawing.mistakes.filter((one) => one.at === at || (deep && one.at.startsWith(`${at}/`)));
  }

  /** Makes a change that can be undone. @param key changes with the same key in quick succession are one */
  apply(next: FlowDocument, key = ''): void {
    if (next === this.document) return;
    const now = Date.now();
    const same = key !== '' && key === this.#last.key && now - this.#last.at < ONE_GO;
    if (!same) this.#past.push(this.document);
    this.#last = { key, at: now };
    this.#future = [];
    this.#show(next);
  }

  undo = (): void => this.#go(this.#past, this.#future);
  redo = (): void => this.#go(this.#future, this.#past);

  #go(from: FlowDocument[], to: FlowDocument[]): void {
    const next = from.pop();
    if (!next) return;
    to.push(this.document);
    this.#last = { key: '', at: 0 };
    this.#show(next);
  }

  #show(next: FlowDocument): void {
    this.document = next;
    this.canUndo = this.#past.length > 0;
    this.canRedo = this.#future.length > 0;
    this.selected = this.selected.filter((name) => name in this.steps);
    this.state = 'unsaved';
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => void this.save(), SAVE_AFTER);
  }

  /** Saves what is there. Resolves when nothing is left to save. */
  async save(): Promise<void> {
    clearTimeout(this.#timer);
    if (this.#saving) await this.#saving;
    if (this.state === 'saved') return;
    this.#saving = this.#saveOnce();
    await this.#saving;
    this.#saving = null;
  }

  async #saveOnce(): Promise<void> {
    const sent = this.document;
    this.state = 'saving';
    try {
      const saved = await api.saveDraft({
        name: this.name,
        body: { document: sent as never, version: this.#version },
      });
      this.#version = saved.version;
      this.#take(saved);
      this.state = this.document === sent ? 'saved' : 'unsaved';
      this.problem = null;
    } catch (error) {
      this.problem = problemOf(error);
      this.state = 'refused';
    }
  }

  #take({ cards, links, bodies, mistakes }: SavedDraft | FlowPreview): void {
    this.drawing = { cards, links, bodies, mistakes };
  }

  async #look(): Promise<void> {
    this.#take(await api.previewFlow({ body: { document: this.document as never } }));
  }

  /** Somebody else may have changed the draft: takes it in when nothing of ours is unsaved. */
  async reload(force = false): Promise<void> {
    if (!force && this.state !== 'saved') return;
    const detail = await api.getFlow({ name: this.name });
    if (detail.version === this.#version || (!force && this.state !== 'saved')) return;
    this.#past.push(this.document);
    this.canUndo = true;
    this.document = detail.document as unknown as FlowDocument;
    this.#version = detail.version;
    this.state = 'saved';
    this.problem = null;
    await this.#look();
  }

  // steps

  add(kind: string, options: { after?: Link | undefined; before?: string | undefined } = {}): void {
    const { document, name } = addStep(this.document, this.place, kind, { ...options, with: BEGINNINGS[kind] });
    this.apply(document);
    this.selected = [name];
  }
  change(step: string, change: Partial<StepDocument>, key = ''): void {
    this.apply(changeStep(this.document, this.place, step, change), key && `${step}/${key}`);
  }
  setValue(path: readonly PropertyKey[], value: Json | undefined): void {
    this.apply(withValue(this.document, path, value), pointer(path));
  }
  remove(names = this.selected): void {
    if (names.length > 0) this.apply(removeSteps(this.document, this.place, names));
  }
  rename(step: string, wanted: string): void {
    this.apply(renameStep(this.document, this.place, step, wanted));
    this.selected = [wanted];
  }
  duplicate(): void {
    if (this.selected.length === 0) return;
    const { document, names } = duplicateSteps(this.document, this.place, this.selected);
    this.apply(document);
    this.selected = names;
  }
  toggle(): void {
    const off = this.selected.some((name) => !this.steps[name]?.off);
    this.apply(
      this.selected.reduce(
        (document, name) => changeStep(document, this.place, name, { off: off || undefined }),
        this.document,
      ),
    );
  }
  link(link: Link, to: string): void {
    this.apply(connect(this.document, this.place, link, to));
  }
  unlink(link: Link, to: string): void {
    this.apply(disconnect(this.document, this.place, link, to));
  }
  copy(): string {
    return copyText(this.document, this.place, this.selected);
  }
  /** Takes in steps out of a text, wherever it came from. @returns why not, or null */
  paste(text: string): string | null {
    let read: Json | undefined;
    try {
      read = readValue(text);
    } catch (error) {
      return `What was pasted is not a flow: ${(error as Error).message.split('\n')[0]}`;
    }
    const steps = isObject(read) ? (isObject(read.steps) ? read.steps : read) : {};
    const sound = Object.values(steps as JsonObject).filter((step) => isObject(step) && typeof step.kind === 'string');
    if (sound.length === 0 || sound.length < Object.keys(steps).length)
      return 'What was pasted holds no steps. Copy steps, or a flow document, and paste again.';
    const { document, names } = takeIn(this.document, this.place, steps as never);
    this.apply(document);
    this.selected = names;
    return null;
  }

  open(step: string): void {
    this.place = [...this.at(step), 'with'];
    this.selected = [];
  }
  leave(depth: number): void {
    this.place = this.place.slice(0, depth);
    this.selected = [];
  }
}

/** What a new step of a kind begins with, so that its form shows what it is about. */
const BEGINNINGS: Record<string, JsonObject> = {
  table: { table: '', do: 'find' },
  each: { list: '${ [] }', steps: {} },
  choose: { when: { yes: '${ true }' } },
  http: { method: 'GET', url: 'https://' },
};
