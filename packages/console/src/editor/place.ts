import type { Json, JsonSchema } from '@pindro/core/browser';
import type { Reachable } from './data.js';
import type { Editor } from './session.svelte.js';

/** What a field needs to know of the step it stands in. */
export interface FieldPlace {
  editor: Editor;
  data: Reachable[];
  lastInput: Json | undefined;
  lastOutputs: { [step: string]: Json };
  /** What the field at a path takes. */
  schemaAt(path: string[]): JsonSchema;
}
