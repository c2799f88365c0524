import type { FlowComparisonView, FlowDetail, FlowPreview, ProblemDetails, SavedDraft } from '@pindro/contract/light';
import type { FlowDocument } from '@pindro/core/browser';
import { api, problemOf } from '../../state/api.js';
import { Unsaved } from './unsaved.js';

export type Mistake = FlowPreview['mistakes'][number];
export type Drawing = Pick<FlowPreview, 'cards' | 'links' | 'bodies' | 'mistakes' | 'warnings'>;

/** Changes within this many milliseconds are undone together. */
const ONE_GO = 900;
const SAVE_AFTER = 250;
/** Number of undo steps. */
const MOST_PAST = 300;

/** Somebody else saved first: their draft, and how ours differs from it. */
export interface Conflict {
  theirs: FlowDetail;
  difference: FlowComparisonView | null;
}

/** A document while it is edited: undo and redo, and a draft that saves itself. */
export class Draft {
  document = $state.raw<FlowDocument>({} as FlowDocument);
  /** The draft as text, where the document is shown as such. */
  text = $state.raw('');
  drawing = $state.raw<Drawing>({ cards: [], links: [], bodies: {}, mistakes: [], warnings: [] });
  state = $state<'saved' | 'unsaved' | 'saving' | 'refused' | 'lost'>('saved');
  problem = $state.raw<ProblemDetails | null>(null);
  conflict = $state.raw<Conflict | null>(null);
  /** What an earlier page could not save any more. */
  found = $state.raw<FlowDocument | null>(null);
  canUndo = $state(false);
  canRedo = $state(false);
  #past: FlowDocument[] = [];
  #future: FlowDocument[] = [];
  #last = { key: '', at: 0 };
  #version: number;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #turn: Promise<unknown> = Promise.resolve();
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

  /** Called when another document is there, whoever made it. */
  protected renewed(): void {}

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
    this.renewed();
    this.state = 'unsaved';
    this.#unsaved.keep(next);
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => void this.save(), SAVE_AFTER);
  }

  /** One after another: two savings at the same time would each make the other one late. */
  #inTurn<T>(work: () => Promise<T>): Promise<T> {
    const turn = this.#turn.then(work);
    this.#turn = turn.catch(() => {});
    return turn;
  }

  /** Saves the draft. Resolves when nothing is left to save, or saving fails. */
  async save(): Promise<void> {
    clearTimeout(this.#timer);
    await this.#inTurn(async () => {
      if (this.state !== 'saved' && !this.conflict) await this.#saveOnce();
    });
  }

  async #saveOnce(): Promise<void> {
    const sent = this.document;
    this.state = 'saving';
    try {
      const saved = await api.saveDraft({
        name: this.name,
        body: { document: sent, version: this.#version },
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

  /** Somebody else saved first: shows how the two differ, so that one can choose. What is the same asks nobody. */
  async #meet(): Promise<void> {
    this.state = 'refused';
    this.problem = null;
    const mine = this.document;
    const theirs = await api.getFlow({ name: this.name });
    const difference = await api.compareDraft({ name: this.name, body: { document: mine } }).catch(() => null);
    if (difference?.changes.length === 0 && this.document === mine) {
      this.#version = theirs.version;
      this.text = theirs.text;
      this.state = 'saved';
      this.#unsaved.forget();
    } else this.conflict = { theirs, difference };
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

  /** Restores or discards what an earlier page could not save. */
  takeFound(take: boolean): void {
    if (take && this.found) this.apply(this.found);
    else this.#unsaved.forget();
    this.found = null;
  }

  #take({ cards, links, bodies, mistakes, warnings }: SavedDraft | FlowPreview): void {
    this.drawing = { cards, links, bodies, mistakes, warnings };
  }

  async #look(): Promise<void> {
    const preview = await api.previewFlow({ body: { document: this.document } }).catch(() => null);
    if (preview) this.#take(preview);
  }

  /** Somebody else may have changed the draft: takes it in when nothing of ours is unsaved. */
  async reload(): Promise<void> {
    if (this.state === 'lost' || this.state === 'unsaved') return this.save();
    await this.#inTurn(async () => {
      if (this.state !== 'saved') return;
      const detail = await api.getFlow({ name: this.name }).catch(() => null);
      if (!detail || detail.version === this.#version || this.state !== 'saved') return;
      this.#past.push(this.document);
      await this.#receive(detail);
    });
  }

  async #receive(detail: FlowDetail): Promise<void> {
    this.document = detail.document as unknown as FlowDocument;
    this.text = detail.text;
    this.#version = detail.version;
    this.state = 'saved';
    this.problem = null;
    this.canUndo = true;
    this.renewed();
    await this.#look();
  }

  /** The draft as it is written in the text that is kept, comments and all. */
  async readText(): Promise<string> {
    await this.save();
    this.text = (await api.getFlow({ name: this.name })).text;
    return this.text;
  }

  /** Keeps a text somebody wrote, comments and all. @returns the mistakes that keep it from being read at all */
  writeText(text: string): Promise<Mistake[]> {
    return this.#inTurn(() => this.#writeText(text));
  }

  async #writeText(text: string): Promise<Mistake[]> {
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
      return problem.mistakes?.length ? problem.mistakes : [{ at: '', message: problem.detail, hint: problem.hint }];
    }
  }
}
