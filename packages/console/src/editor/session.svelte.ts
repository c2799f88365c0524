import type { FlowComparisonView, FlowDetail, FlowPreview, ProblemDetails, SavedDraft } from '@pindro/contract/light';
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
  renameBranch,
  renameStep,
  type StepDocument,
  stepsAt,
  takeIn,
  withValue,
} from '@pindro/core/browser';
import { api, problemOf } from '../state/api.js';
import { beginningOf, type Facts, NO_FACTS } from './beginnings.js';
import { Unsaved } from './unsaved.js';

type Mistake = FlowPreview['mistakes'][number];
type Drawing = Pick<FlowPreview, 'cards' | 'links' | 'bodies' | 'mistakes' | 'warnings'>;

/** What was typed within so many milliseconds is undone in one go. */
const ONE_GO = 900;
const SAVE_AFTER = 250;
/** So many changes can be taken back. */
const MOST_PAST = 300;

/** Somebody else saved first: their draft, and how ours differs from it. */
export interface Conflict {
  theirs: FlowDetail;
  difference: FlowComparisonView | null;
}

/** A flow while it is edited: its document, what is selected, undo and redo, and the draft that saves itself. */
export class Editor {
  document = $state.raw<FlowDocument>({} as FlowDocument);
  /** The draft as text, where the document is shown as such. */
  text = $state.raw('');
  /** Where the steps shown stand: nothing for the flow, or inside of a loop. */
  place = $state.raw<string[]>([]);
  selected = $state.raw<string[]>([]);
  drawing = $state.raw<Drawing>({ cards: [], links: [], bodies: {}, mistakes: [], warnings: [] });
  state = $state<'saved' | 'unsaved' | 'saving' | 'refused' | 'lost'>('saved');
  problem = $state.raw<ProblemDetails | null>(null);
  conflict = $state.raw<Conflict | null>(null);
  /** What an earlier page could not save any more. */
  found = $state.raw<FlowDocument | null>(null);
  canUndo = $state(false);
  canRedo = $state(false);
  /** Steps that were just added and not left yet: what is missing in them is only still to fill. */
  fresh = $state.raw<ReadonlySet<string>>(new Set());
  facts: Facts = NO_FACTS;
  #past: FlowDocument[] = [];
  #future: FlowDocument[] = [];
  #last = { key: '', at: 0 };
  #version: number;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #saving: Promise<void> | null = null;
  readonly #unsaved: Unsaved;

  constructor(
    readonly name: string,
    detail: FlowDetail,
  ) {
    this.document = detail.document as unknown as FlowDocument;
    this.text = detail.text;
    this.drawing = { ...detail, bodies: {} };
    this.#version = detail.version;
    this.#unsaved = new Unsaved(name);
    this.found = this.#unsaved.found(this.document);
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
  warningsAt(path: readonly PropertyKey[]): Mistake[] {
    const at = pointer(path);
    return this.drawing.warnings.filter((one) => one.at === at || one.at.startsWith(`${at}/`));
  }
  /** Whether a mistake is only something that is still to be filled into a step somebody is at. */
  isCalm(mistake: Mistake): boolean {
    return mistake.missing === true && [...this.fresh].some((at) => `${mistake.at}/`.startsWith(`${at}/`));
  }
  /** What is wrong, without what is only still to fill. */
  get faults(): Mistake[] {
    return this.drawing.mistakes.filter((one) => !this.isCalm(one));
  }

  select(names: string[]): void {
    const left = this.selected.filter((name) => !names.includes(name)).map((name) => pointer(this.at(name)));
    if (left.some((at) => this.fresh.has(at))) this.fresh = new Set([...this.fresh].filter((at) => !left.includes(at)));
    this.selected = names;
  }

  /** Leads to where a mistake is. */
  show(mistake: Mistake): void {
    const parts = mistake.at.split('/').slice(1);
    const steps = parts.lastIndexOf('steps');
    if (steps < 0) {
      this.select([]);
      return;
    }
    this.place = parts.slice(0, steps);
    this.select([parts[steps + 1]!].filter((name) => name in this.steps));
  }

  /** Makes a change that can be undone. @param key changes with the same key in quick succession are one */
  apply(next: FlowDocument, key = ''): void {
    if (next === this.document) return;
    const now = Date.now();
    const same = key !== '' && key === this.#last.key && now - this.#last.at < ONE_GO;
    if (!same) this.#past = [...this.#past.slice(1 - MOST_PAST), this.document];
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
    this.#unsaved.keep(next);
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => void this.save(), SAVE_AFTER);
  }

  /** Saves what is there. Resolves when nothing is left to save, or it cannot be saved now. */
  async save(): Promise<void> {
    clearTimeout(this.#timer);
    if (this.#saving) await this.#saving;
    if (this.state === 'saved' || this.conflict) return;
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
      if (this.state === 'saved') this.#unsaved.forget();
      this.problem = null;
    } catch (error) {
      const problem = problemOf(error);
      if (problem.code === 'draft_newer') return this.#meet();
      // A service that is away, or a session that ended, keeps nobody from typing on: it is saved once it is back.
      const lost = problem.status === 0 || problem.status === 401 || problem.status >= 500;
      this.state = lost ? 'lost' : 'refused';
      this.problem = lost ? null : problem;
    }
  }

  /** Somebody else saved first: shows how the two differ, so that one can choose. */
  async #meet(): Promise<void> {
    this.state = 'refused';
    this.problem = null;
    const theirs = await api.getFlow({ name: this.name });
    const difference = await api
      .compareDraft({ name: this.name, body: { document: this.document as never } })
      .catch(() => null);
    this.conflict = { theirs, difference };
  }

  /** Ends a conflict. What is given up can still be had by undoing. */
  async settle(keep: 'mine' | 'theirs'): Promise<void> {
    const { theirs } = this.conflict!;
    this.conflict = null;
    this.#version = theirs.version;
    if (keep === 'mine') {
      this.#past.push(theirs.document as unknown as FlowDocument);
      this.state = 'unsaved';
      this.canUndo = true;
      return this.save();
    }
    this.#past.push(this.document);
    this.#unsaved.forget();
    await this.#receive(theirs);
  }

  /** Takes in what an earlier page could not save, or lets it go. */
  takeFound(take: boolean): void {
    if (take && this.found) this.apply(this.found);
    else this.#unsaved.forget();
    this.found = null;
  }

  #take({ cards, links, bodies, mistakes, warnings }: SavedDraft | FlowPreview): void {
    this.drawing = { cards, links, bodies, mistakes, warnings };
  }

  async #look(): Promise<void> {
    const preview = await api.previewFlow({ body: { document: this.document as never } }).catch(() => null);
    if (preview) this.#take(preview);
  }

  /** Somebody else may have changed the draft: takes it in when nothing of ours is unsaved. */
  async reload(): Promise<void> {
    if (this.state === 'lost' || this.state === 'unsaved') return this.save();
    if (this.state !== 'saved') return;
    const detail = await api.getFlow({ name: this.name }).catch(() => null);
    if (!detail || detail.version === this.#version || this.state !== 'saved') return;
    this.#past.push(this.document);
    await this.#receive(detail);
  }

  async #receive(detail: FlowDetail): Promise<void> {
    this.document = detail.document as unknown as FlowDocument;
    this.text = detail.text;
    this.#version = detail.version;
    this.state = 'saved';
    this.problem = null;
    this.canUndo = true;
    this.selected = this.selected.filter((name) => name in this.steps);
    await this.#look();
  }

  /** The draft as it is written in the text that is kept, comments and all. */
  async readText(): Promise<string> {
    await this.save();
    this.text = (await api.getFlow({ name: this.name })).text;
    return this.text;
  }

  /** Keeps a text somebody wrote, comments and all. @returns the mistakes that keep it from being read at all */
  async writeText(text: string): Promise<Mistake[]> {
    try {
      const saved = await api.saveDraft({ name: this.name, body: { document: text, version: this.#version } });
      this.#past.push(this.document);
      this.canUndo = true;
      this.#version = saved.version;
      this.document = saved.document as unknown as FlowDocument;
      this.text = text;
      this.#take(saved);
      this.state = 'saved';
      this.problem = null;
      this.#unsaved.forget();
      return [];
    } catch (error) {
      const problem = problemOf(error);
      if (problem.code === 'draft_newer') await this.#meet();
      else if (problem.status === 0 || problem.status === 401) this.state = 'lost';
      return problem.mistakes?.length ? problem.mistakes : [{ at: '', message: problem.title, hint: problem.hint }];
    }
  }

  // steps

  add(kind: string, options: { after?: Link | undefined; before?: string | undefined } = {}): void {
    const beginning = beginningOf(kind, this.document, this.facts, options.after?.from);
    const { document, name } = addStep(beginning.document, this.place, kind, { ...options, with: beginning.config });
    this.apply(document);
    this.select([name]);
    this.fresh = new Set([...this.fresh, pointer(this.at(name))]);
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
    const [old, now] = [pointer(this.at(step)), pointer(this.at(wanted))];
    this.apply(renameStep(this.document, this.place, step, wanted));
    if (this.fresh.has(old)) this.fresh = new Set([...this.fresh].map((at) => (at === old ? now : at)));
    this.selected = [wanted];
  }
  renameBranch(step: string, branch: string, wanted: string): void {
    this.apply(renameBranch(this.document, this.place, step, branch, wanted), `${step}/branches`);
  }
  duplicate(): void {
    if (this.selected.length === 0) return;
    const { document, names } = duplicateSteps(this.document, this.place, this.selected);
    // A copy would hide what it was copied from.
    this.apply(names.reduce((now, name) => changeStep(now, this.place, name, { place: undefined }), document));
    this.select(names);
  }
  toggle(): void {
    const off = this.selected.some((name) => !this.steps[name]?.off);
    this.#each(this.selected, { off: off || undefined });
  }
  /** Puts steps under a heading, under which they fold; none takes them out. */
  gather(names: readonly string[], heading: string): void {
    this.#each(names, { under: heading.trim() || undefined }, `under/${names.join()}`);
  }
  /** Cards were moved by hand. */
  move(places: ReadonlyMap<string, { x: number; y: number }>): void {
    const document = [...places].reduce(
      (now, [name, { x, y }]) => changeStep(now, this.place, name, { place: [Math.round(x), Math.round(y)] }),
      this.document,
    );
    this.apply(document, 'places');
  }
  /** Lets cards be arranged by themselves again. */
  arrange(): void {
    this.#each(
      Object.keys(this.steps).filter((name) => this.steps[name]!.place),
      { place: undefined },
    );
  }
  #each(names: readonly string[], change: Partial<StepDocument>, key = ''): void {
    this.apply(
      names.reduce((document, name) => changeStep(document, this.place, name, change), this.document),
      key,
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
    this.select(names);
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
