import type { Json, JsonObject, JsonSchema } from '../json/json.js';
import type { CredentialForm } from './expected-credential-form.js';
import type { SentHeader } from './sent-header.js';

/** A fact that a rule needs in addition to the trace. The service collects it at the end of the run. */
export type Need =
  /** Way: how it speaks now is found by trying. */
  | { of: 'server'; name: string; way?: true }
  /** Names: what its server offers is asked for. */
  | { of: 'model'; name: string; names?: true }
  | { of: 'endpoint'; name: string }
  | { of: 'credential'; name: string }
  | { of: 'address'; url: string }
  | { of: 'near'; table: string; where: JsonObject };

/** A credential, without its secret. */
export interface CredentialFact extends CredentialForm {
  name: string;
  /** Description of a malformed secret, without any of its characters; empty if it is well-formed. */
  odd: string;
  /** Whether what is odd can be taken from it. */
  cleans: boolean;
  /** The header that it goes in, with the authentication schemes in front of the key; null where it goes in no header. */
  sends: SentHeader | null;
  /** Whether the secret is stored in Pindro, which can then correct it. */
  stored: boolean;
}

/** Current state of a tool server. */
export interface ServerFact {
  transport: string;
  /** How it speaks now, where that was asked for; null where it does in no way. */
  speaksNow?: string | null;
  credential: CredentialFact | null;
  /** Credentials for the address of the server, if none is sent. */
  couldSend: string[];
  tools: { name: string; inputSchema: JsonSchema }[];
}

export interface ModelFact {
  model: string;
  credential: CredentialFact | null;
  couldSend: string[];
  /** The names that its server knows; null where it does not say. */
  offers: string[] | null;
}

/** An endpoint as it is now, whichever of its tools a key may use. */
export interface EndpointFact {
  tools: string[];
  /** What its tools promise to give, where they do, by their names. */
  returns?: { [tool: string]: JsonSchema };
}

/** Rows that a search nearly matches: different only in case, spaces or type. */
export interface NearFact {
  rows: { column: string; searched: Json; has: Json }[];
}

export interface FactOf {
  server: ServerFact;
  model: ModelFact;
  endpoint: EndpointFact;
  credential: CredentialFact;
  address: { couldSend: string[] };
  near: NearFact;
}

/** Collected facts. Facts that are unavailable are missing, and no rule may rely on them. */
export class Facts {
  readonly #known = new Map<string, unknown>();

  put(need: Need, fact: FactOf[Need['of']] | undefined): void {
    if (fact !== undefined) this.#known.set(needKey(need), fact);
  }

  get<N extends Need>(need: N): FactOf[N['of']] | undefined {
    return this.#known.get(needKey(need)) as FactOf[N['of']] | undefined;
  }
}

/**
 * Returns a key that is equal for equal needs.
 * @param need of a rule
 * @returns a key for a map
 */
export const needKey = (need: Need): string => JSON.stringify(need);
