import { isObject, type Json } from '@pindro/core';
import type { Bus } from '../platform/events.js';
import type { FlowRecord } from './drafts.js';

interface Drafts {
  names(): string[];
  find(name: string): FlowRecord | null;
}

/** To which flows the agents of each flow hand work; a flow is looked at anew only where it changed. */
export class HandsTo {
  readonly #known = new Map<string, string[]>();

  constructor(
    bus: Bus,
    private readonly drafts: () => Drafts,
  ) {
    bus.on('changed', (what, name) => void (what === 'flow' && this.#known.delete(name)));
    bus.on('renamed', () => this.#known.clear());
    bus.on('undone', () => this.#known.clear());
  }

  /** Only flows whose agents hand work on. */
  all(): Record<string, string[]> {
    const drafts = this.drafts();
    const all: Record<string, string[]> = {};
    for (const name of drafts.names()) {
      let own = this.#known.get(name);
      if (!own) this.#known.set(name, (own = handedOn((drafts.find(name)?.document ?? null) as unknown as Json)));
      if (own.length > 0) all[name] = own;
    }
    return all;
  }
}

/** The flows in the toolboxes of a document, wherever its agents stand. */
function handedOn(value: Json): string[] {
  if (Array.isArray(value)) return value.flatMap(handedOn);
  if (!isObject(value)) return [];
  const own =
    value.kind === 'agent' && isObject(value.with) && Array.isArray(value.with.toolbox)
      ? value.with.toolbox.flatMap((row) => (isObject(row) && typeof row.flow === 'string' ? [row.flow] : []))
      : [];
  return [...own, ...Object.values(value).flatMap(handedOn)];
}
