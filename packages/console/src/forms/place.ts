import type { FlowPreview } from '@pindro/contract/light';
import type { Json, JsonSchema } from '@pindro/core/browser';
import type { Editor } from '../editor/session/session.svelte.js';
import type { Reachable } from './reach.js';
import type { ValueSource } from './value-source.js';

export type Mistake = FlowPreview['mistakes'][number];

/** What a field needs to know of where it stands. */
export interface FieldPlace {
  /** The editor of the flow, where it is a field of one. */
  editor: Editor | null;
  /** Whether texts may hold expressions. */
  expressions: boolean;
  data: Reachable[];
  lastInput: Json | undefined;
  lastOutputs: { [step: string]: Json };
  mistakesAt(path: readonly PropertyKey[], deep?: boolean): Mistake[];
  /** Whether a mistake is only what is still to be filled in, where somebody is still at it. */
  isCalm(mistake: Mistake): boolean;
  /** Tells that something was begun that holds nothing yet. */
  begun(path: readonly PropertyKey[]): void;
  /** The whole configuration in which the field stands, for what depends on its neighbours. */
  config: Json;
  /** Where that begins. */
  root: readonly PropertyKey[];
  /** Where the values of a field come from, where something lists them. */
  values?: (path: readonly PropertyKey[]) => ValueSource | null;
}

/** A form that is not part of a flow: plain values alone. */
export const plainPlace = (config: Json = {}): FieldPlace => ({
  editor: null,
  expressions: false,
  data: [],
  lastInput: undefined,
  lastOutputs: {},
  mistakesAt: () => [],
  isCalm: () => false,
  begun: () => {},
  config,
  root: [],
});

/** What every component of a field takes. */
export interface FieldProps {
  id: string;
  label: string;
  schema: JsonSchema;
  value: Json | undefined;
  path: PropertyKey[];
  place: FieldPlace;
  required: boolean;
  /** Whether texts in it hold no expressions, like the code of a script. */
  plain: boolean;
  /** Whether it is one way of a choice of types, which itself says who supplies the value. */
  isWay?: boolean;
  onChange: (value: Json | undefined) => void;
}
