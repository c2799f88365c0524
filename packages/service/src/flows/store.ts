import {
  ANY_EFFECT,
  asJson,
  effectsOf,
  type FlowDocument,
  type FlowPort,
  type Json,
  PindroError,
  type Stage,
  type Surroundings,
} from '@pindro/core';
import type { FormerNames } from '../objects/former-names.js';
import type { Database } from '../platform/database/open.js';
import type { Bus } from '../platform/events.js';
import type { FlowChecker } from './checker.js';
import { FlowDrafts } from './drafts.js';
import { FlowRevisions } from './revisions.js';

interface Options {
  database: Database;
  bus: Bus;
  former: FormerNames;
  checker: FlowChecker;
  /** What a flow may name. */
  surroundings(): Surroundings;
}

/** Flows: their drafts, what was published of them, and which of it runs. */
export class FlowStore implements FlowPort {
  readonly drafts: FlowDrafts;
  readonly revisions: FlowRevisions;
  /** Documents as they are run. The engine prepares each object once, so that the same one must be handed out again. */
  readonly #loaded = new Map<string, { document: FlowDocument; revision: number | null }>();

  constructor({ database, bus, former, checker, surroundings }: Options) {
    this.drafts = new FlowDrafts(database, bus, surroundings, checker, former);
    this.revisions = new FlowRevisions(database, bus, this.drafts);
    this.drafts.onChange = (name, stage) => this.#unload(name, stage);
  }

  #unload(name?: string, stage?: Stage): void {
    if (name === undefined) this.#loaded.clear();
    else for (const one of stage ? [stage] : (['draft', 'live'] as const)) this.#loaded.delete(`${name}/${one}`);
  }

  chosenAt(name: string, stage: Stage): Promise<number | null> {
    return this.revisions.chosenAt(name, stage);
  }

  async load(
    name: string,
    stage: Stage,
    wanted?: number,
  ): Promise<{ document: Json; revision: number | null; reads: boolean }> {
    if (stage === 'draft') await this.drafts.look([this.drafts.get(name)]);
    const { document, revision } = this.loadNow(name, stage, wanted);
    return { document: asJson(document), revision, reads: onlyReads(document) };
  }

  /** @param wanted the revision that a run in progress began with */
  loadNow(given: string, stage: Stage, wanted?: number): { document: FlowDocument; revision: number | null } {
    const name = this.drafts.nameOf(given);
    const key = `${name}/${stage}`;
    const known = this.#loaded.get(key);
    if (known && (wanted === undefined || known.revision === wanted)) return known;
    const flow = this.drafts.get(name);
    if (wanted !== undefined && wanted !== flow.live)
      return { document: this.revisions.document(name, wanted), revision: wanted };
    if (stage === 'live' && flow.live === null)
      throw new PindroError('flow_not_published', { flow: name }, { details: { flow: name } });
    const loaded =
      stage === 'draft'
        ? { document: this.drafts.requireSound(flow), revision: null }
        : { document: this.revisions.document(name, flow.live!), revision: flow.live };
    this.#loaded.set(key, loaded);
    return loaded;
  }
}

const reading = new WeakMap<FlowDocument, boolean>();
/** Whether a flow changes nothing by its own steps; what it calls may. */
function onlyReads(document: FlowDocument): boolean {
  let reads = reading.get(document);
  if (reads === undefined) reading.set(document, (reads = !effectsOf(document, () => ANY_EFFECT).writes));
  return reads;
}
