import type { z } from 'zod';
import type { AgentServices } from '../agent/context.js';
import type { Mistake } from '../errors/errors.js';
import type { CelType } from '../expression/types.js';
import type { Json, JsonObject } from '../json/json.js';
import type { CallContext } from '../tools/source.js';
import type { StartFlow } from '../tools/start-flow.js';
import type { OnExchange } from '../trace/exchanges/exchange.js';
import type { StepDocument } from './document.js';
import type { Surroundings } from './environment.js';
import type { Sentence } from './sentence.js';

export type { Sentence };

/**
 * A branch of a step. An optional branch is followed only by steps that name it; a plain `after` follows the default
 * branch.
 */
export interface Branch {
  name: string;
  aside?: boolean;
}

/** What a step asks of the run. */
export interface StepServices extends AgentServices {
  startFlow: StartFlow;
  /** Gives the caller its answer; the first one counts. */
  answer(result: Json): Promise<void>;
  /** Does the steps inside of this one once, with the item that expressions see. @throws what made the turn fail */
  turn(index: number, item: Json, parentSpan: string): Promise<Json>;
}

/** What a kind is given for one attempt of a step. */
export interface StepContext extends CallContext {
  services: StepServices;
  /** Resume time of a waiting step, in milliseconds since the epoch; null: open-ended. */
  parkedUntil: number | null | undefined;
  /** Fills a part of the configuration that the kind asked to have raw. @param more what else its expressions see */
  fill(value: Json, at: PropertyKey[], more?: JsonObject): Json;
  /** Captures exchanges. */
  captureExchange: OnExchange;
  /** What the expressions in a value read, for whoever fills it elsewhere. */
  seenBy(value: Json): JsonObject;
  /** The parts of the configuration that still hold their expressions. */
  raw: ReadonlySet<string>;
  /** The branches of this step that some other step follows. */
  followed: ReadonlySet<string>;
}

export interface StepOutcome {
  output: JsonObject;
  branch?: string;
  /** Set by a step that ends the run. */
  ends?: { as: 'done' | 'failed'; result: Json; message: string };
}

/** Names of other things in a configuration, for the check and for "used by". */
export interface References {
  flows?: string[];
  tables?: string[];
  servers?: string[];
  endpoints?: string[];
  models?: string[];
  credentials?: string[];
}

/** Side effects of work, as expressed by MCP's tool annotations. */
export interface Effects {
  /** Whether anything is different afterwards. */
  writes: boolean;
  /** Whether what was there may be gone or another afterwards. */
  destroys: boolean;
  /** Whether doing it twice makes a difference. */
  repeatable: boolean;
  /** Whether it reaches anything that is not in the workspace. */
  outside: boolean;
  /** Whether that it writes is only assumed, because nobody said. */
  assumed?: boolean;
  /** Whether it may wait for a person or a time, so that its caller receives the waiting state instead of a result. */
  waits: boolean;
}
export const NO_EFFECT: Effects = { writes: false, destroys: false, repeatable: true, outside: false, waits: false };

/** Other work that a step does: a flow, or tools by names and patterns; all of them where none is given. */
export type Uses =
  | { flow: string }
  | { server: string; use?: string[] | undefined }
  | { endpoint: string; use?: string[] | undefined };

/** What is only there while a kind works. */
export interface Late {
  reads: string;
  parts: readonly string[];
  /** Known fields; any if omitted. */
  type?(raw: JsonObject): CelType;
}

/** The steps inside of a step. */
export interface Body {
  steps: { [name: string]: StepDocument };
  result?: Json | undefined;
}

/** One kind of step. A kind is one file here and one line in the registry. */
export interface StepKind<Config = unknown> {
  readonly name: string;
  readonly title: string;
  /** One sentence for the reference. */
  readonly about: string;
  /** What `with` takes; gives the check, the form, the reference and the JSON Schema. */
  readonly config: z.ZodType<Config>;
  /** Top-level settings that the kind evaluates itself. */
  readonly raw?: readonly string[];
  /**
   * Parts whose expressions may read a variable that is only there while the kind works, such as `row`: where one does,
   * the kind fills them all itself, when it is there.
   */
  readonly late?: Late;
  /** Parts of the configuration that hold no expressions. */
  readonly plain?: readonly string[];
  /** Set where the kind itself makes sure that nothing is done twice when a run is resumed. */
  readonly resumable?: boolean;
  /** Set where what it reaches keeps a ledger: doing the same attempt again answers what it answered before. */
  readonly ledger?: boolean;
  /** The steps inside of it, which see `item` and `index`. */
  body?(config: JsonObject): Body | null;
  /** Whether it may be done twice without harm; when not, the journal is on disk before it begins. */
  repeatable(config: JsonObject): boolean;
  /** Whether its output holds a receipt of what was done in it, which becomes the run's. */
  readonly receipt?: boolean;
  /** Its own effects; none if omitted. */
  effects?(config: JsonObject): Partial<Effects>;
  /** What else it sets going, whose effects are then its own. */
  uses?(config: JsonObject): Uses[];
  branches(config: JsonObject): Branch[];
  sentence(config: JsonObject): Sentence;
  /** The type of `steps.NAME` after it. */
  output(config: JsonObject): { [property: string]: CelType };
  references(config: JsonObject): References;
  /** Parts whose expressions must come to true or false. */
  readonly conditions?: readonly string[];
  /** What in a configuration of the right form cannot work with what there is; `at` points below it. */
  mistakes?(config: JsonObject, surroundings: Surroundings): Mistake[];
  /** What in it may not be meant, because it does nothing now. */
  warnings?(config: JsonObject, surroundings: Surroundings): Mistake[];
  run(config: Config, context: StepContext): Promise<StepOutcome>;
}

/** Keeps the configuration's type inside the kind while the registry holds them all alike. */
export function defineKind<Config>(kind: StepKind<Config>): StepKind {
  return kind as unknown as StepKind;
}

/** A name in the settings, unless it is an expression. */
export function fixedName(value: Json | undefined): string[] {
  return typeof value === 'string' && !value.includes('${') ? [value] : [];
}
