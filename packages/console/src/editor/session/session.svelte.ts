import type { FlowDocument } from '@pindro/core/browser';
import {
  addStep,
  changeStep,
  connect,
  copyText,
  disconnect,
  duplicateSteps,
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
import { beginningOf, type Facts, NO_FACTS } from '../try/input-templates.js';
import { Draft, type Drawing, type Mistake } from './draft.svelte.js';

/** A flow while it is edited: what is shown and selected of its draft, and what is done to its steps. */
export class Editor extends Draft {
  /** Where the steps shown stand: nothing for the flow, or inside of a loop. */
  place = $state.raw<string[]>([]);
  selected = $state.raw<string[]>([]);
  /** What was just added, and whose step was not left yet: what is missing in it is only still to fill. */
  fresh = $state.raw<ReadonlySet<string>>(new Set());
  /** Whether the toolbox of the selected step is to be opened. */
  wantsToolbox = $state(false);
  facts: Facts = NO_FACTS;

  protected override renewed(): void {
    this.selected = this.selected.filter((name) => name in this.steps);
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
    if (!mistake.missing) return false;
    // A flow without a step was only just begun.
    return mistake.at === '/steps' || [...this.fresh].some((at) => `${mistake.at}/`.startsWith(`${at}/`));
  }
  /** What is wrong, without what is only still to fill. */
  get faults(): Mistake[] {
    return this.drawing.mistakes.filter((one) => !this.isCalm(one));
  }

  select(names: string[]): void {
    const left = this.selected.filter((name) => !names.includes(name)).map((name) => pointer(this.at(name)));
    const isLeft = (at: string) => left.some((one) => `${at}/`.startsWith(`${one}/`));
    if ([...this.fresh].some(isLeft)) this.fresh = new Set([...this.fresh].filter((at) => !isLeft(at)));
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

  add(kind: string, options: { after?: Link | undefined; before?: string | undefined } = {}): void {
    const beginning = beginningOf(kind, this.document, this.facts, options.after?.from);
    const { document, name } = addStep(beginning.document, this.place, kind, { ...options, with: beginning.config });
    this.apply(document);
    this.select([name]);
    this.begin(this.at(name));
  }
  /** A new item without values: missing settings are shown without an error until its step is left. */
  begin(path: readonly PropertyKey[]): void {
    this.fresh = new Set([...this.fresh, pointer(path)]);
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
    const moved = (at: string) => (`${at}/`.startsWith(`${old}/`) ? now + at.slice(old.length) : at);
    this.fresh = new Set([...this.fresh].map(moved));
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
  /** Resets the positions of nodes. */
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
  /** Inserts steps from a text. @returns why not, or null */
  paste(text: string): string | null {
    let read: Json | undefined;
    try {
      read = readValue(text);
    } catch (error) {
      return `The pasted text is not a flow: ${(error as Error).message.split('\n')[0]}`;
    }
    const steps = isObject(read) ? (isObject(read.steps) ? read.steps : read) : {};
    const sound = Object.values(steps as JsonObject).filter((step) => isObject(step) && typeof step.kind === 'string');
    if (sound.length === 0 || sound.length < Object.keys(steps).length)
      return 'The pasted text has no steps. Copy steps, or a flow document, and paste again.';
    const { document, names } = takeIn(this.document, this.place, steps as FlowDocument['steps']);
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
