import type { Json, JsonObject, JsonSchema } from '../json.js';

/** Something that a rule wants to know beside the trace. Whoever has it gathers it at the run's end. */
export type Need =
  | { of: 'server'; name: string }
  /** Names: what its server offers is asked for. */
  | { of: 'model'; name: string; names?: true }
  | { of: 'flow'; name: string }
  | { of: 'endpoint'; name: string }
  | { of: 'near'; table: string; where: JsonObject }
  | { of: 'last_good'; flow: string };

/** A tool server as it is now. */
export interface ServerFact {
  known: boolean;
  address: string;
  transport: string;
  credential: string | null;
  /** What is odd about the secret that goes along, in words and without the secret; empty where nothing is. */
  secretOdd: string;
  tools: { name: string; description: string; inputSchema: JsonSchema }[];
  /** Tools that are held back, with why. */
  held: Record<string, string>;
}

export interface ModelFact {
  known: boolean;
  model: string;
  credential: string | null;
  secretOdd: string;
  /** The names that its server knows; null where it does not say. */
  offers: string[] | null;
  context: number | null;
}

export interface FlowFact {
  known: boolean;
  /** The revision that is published. */
  published: number | null;
}

/** An endpoint as it is now, whichever of its tools a key may use. */
export interface EndpointFact {
  tools: string[];
}

/** Rows that a search nearly finds: other in case, spaces or type alone. */
export interface NearFact {
  rows: { column: string; searched: Json; has: Json }[];
}

/** The last run of a flow that went well. */
export interface GoodFact {
  run: string;
  at: number;
  revision: number | null;
}

export interface FactOf {
  server: ServerFact;
  model: ModelFact;
  flow: FlowFact;
  endpoint: EndpointFact;
  near: NearFact;
  last_good: GoodFact;
}

/** What was gathered. What could not be had is not there, and no rule may count on it. */
export class Facts {
  readonly #known = new Map<string, unknown>();

  put<N extends Need>(need: N, fact: FactOf[N['of']] | undefined): void {
    if (fact !== undefined) this.#known.set(keyOf(need), fact);
  }

  get<N extends Need>(need: N): FactOf[N['of']] | undefined {
    return this.#known.get(keyOf(need)) as FactOf[N['of']] | undefined;
  }
}

/** The same for the same need. */
export const keyOf = (need: Need): string => JSON.stringify(need);
