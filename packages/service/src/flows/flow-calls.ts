import { asJson, type FlowDocument, isObject, type Json, type JsonObject, ownOf, select } from '@pindro/core';
import type { Bus } from '../platform/events.js';

interface Drafts {
  names(): string[];
  documentWithTools(name: string): FlowDocument | null;
}

/** The flows that are tools of endpoints, by endpoint and tool. */
export type EndpointFlows = Record<string, Record<string, string>>;

/** The flows that the agents of each flow delegate to; recomputed for changed flows only. */
export class FlowCalls {
  readonly #known = new Map<string, string[]>();

  constructor(
    bus: Bus,
    private readonly drafts: () => Drafts,
    private readonly endpointFlows: () => EndpointFlows,
  ) {
    bus.on('changed', (what, name) => {
      if (what === 'flow') this.#known.delete(name);
      // Where its tools lead may be another now.
      if (what === 'endpoint') this.#known.clear();
    });
    bus.on('renamed', () => this.#known.clear());
    bus.on('undone', () => this.#known.clear());
  }

  /** Only flows whose agents hand work on. */
  all(): Record<string, string[]> {
    const drafts = this.drafts();
    const endpoints = this.endpointFlows();
    const all: Record<string, string[]> = {};
    for (const name of drafts.names()) {
      let own = this.#known.get(name);
      if (!own) this.#known.set(name, (own = handedOn(asJson(drafts.documentWithTools(name)), endpoints)));
      if (own.length > 0) all[name] = own;
    }
    return all;
  }
}

/** The flows in the toolboxes of a document, wherever its agents stand. */
function handedOn(value: Json, endpoints: EndpointFlows): string[] {
  if (Array.isArray(value)) return value.flatMap((one) => handedOn(one, endpoints));
  if (!isObject(value)) return [];
  const own =
    value.kind === 'agent' && isObject(value.with) && Array.isArray(value.with.toolbox)
      ? value.with.toolbox.flatMap((row) => (isObject(row) ? flowsOf(row, endpoints) : []))
      : [];
  return [...own, ...Object.values(value).flatMap((one) => handedOn(one, endpoints))];
}

function flowsOf({ flow, endpoint, use }: JsonObject, endpoints: EndpointFlows): string[] {
  if (typeof flow === 'string') return [flow];
  if (typeof endpoint !== 'string') return [];
  const tools = ownOf(endpoints, endpoint) ?? {};
  const patterns = Array.isArray(use) ? use.filter((one) => typeof one === 'string') : [];
  return select(Object.keys(tools), patterns).chosen.map((tool) => tools[tool]!);
}
