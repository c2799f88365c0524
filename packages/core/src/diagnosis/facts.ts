import type { Json, JsonObject, JsonSchema } from '../json.js';

/** Something that a rule wants to know beside the trace. Whoever has it gathers it at the run's end. */
export type Need =
  | { of: 'server'; name: string }
  /** Names: what its server offers is asked for. */
  | { of: 'model'; name: string; names?: true }
  | { of: 'endpoint'; name: string }
  | { of: 'near'; table: string; where: JsonObject };

/** A tool server as it is now. */
export interface ServerFact {
  transport: string;
  credential: string | null;
  /** What is odd about the secret that goes along, in words and without the secret; empty where nothing is. */
  secretOdd: string;
  tools: { name: string; inputSchema: JsonSchema }[];
}

export interface ModelFact {
  model: string;
  credential: string | null;
  secretOdd: string;
  /** The names that its server knows; null where it does not say. */
  offers: string[] | null;
}

/** An endpoint as it is now, whichever of its tools a key may use. */
export interface EndpointFact {
  tools: string[];
}

/** Rows that a search nearly finds: other in case, spaces or type alone. */
export interface NearFact {
  rows: { column: string; searched: Json; has: Json }[];
}

export interface FactOf {
  server: ServerFact;
  model: ModelFact;
  endpoint: EndpointFact;
  near: NearFact;
}

/** What was gathered. What could not be had is not there, and no rule may count on it. */
export class Facts {
  readonly #known = new Map<string, unknown>();

  put<N extends Need>(need: N, fact: FactOf[N['of']] | undefined): void {
    if (fact !== undefined) this.#known.set(needKey(need), fact);
  }

  get<N extends Need>(need: N): FactOf[N['of']] | undefined {
    return this.#known.get(needKey(need)) as FactOf[N['of']] | undefined;
  }
}

/** The same for the same need. */
export const needKey = (need: Need): string => JSON.stringify(need);
