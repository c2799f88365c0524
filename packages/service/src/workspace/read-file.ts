import {
  type Draft,
  isObject,
  type Json,
  type JsonObject,
  type Mistake,
  mistakesOf,
  readDraft,
  readSource,
} from '@pindro/core';
import { SORTS, thingType } from './sorts/registry.js';

/** A file of a workspace as it was read. */
export interface ReadFile {
  path: string;
  text: string;
  value: JsonObject;
  /** What the file of a flow becomes. */
  draft: Draft | null;
  mistakes: Mistake[];
}

const NOT_A_FILE: Mistake = {
  at: '',
  message: 'The file is not part of a workspace',
  hint: `Expected paths are ${SORTS.map(({ at }) => (at.includes('.') ? at : `${at}/NAME.yaml`)).join(', ')}.`,
};

export function readFile(path: string, text: string): ReadFile {
  const found = thingType(path);
  if (!found) return { path, text, value: {}, draft: null, mistakes: [NOT_A_FILE] };
  const { sort, name } = found;
  const draft = sort.at === 'flows' ? readDraft(text) : null;
  if (draft && !draft.document) return { path, text, value: {}, draft, mistakes: draft.mistakes };
  const { value, mistakes, locate } = readSource(text);
  const object = isObject(value) ? value : {};
  if (mistakes.length > 0) return { path, text, value: object, draft, mistakes };
  const named = sort.named === undefined ? null : (object[sort.named] ?? null);
  if (name !== null && named !== name)
    return {
      ...{ path, text, value: object, draft },
      mistakes: [
        locate({
          at: `/${sort.named}`,
          message: `The file is named "${name}", but the document "${named}"`,
          hint: 'Use the same name for both.',
        }),
      ],
    };
  const parsed = sort.shape?.safeParse(value);
  if (!parsed) return { path, text, value: object, draft, mistakes: [] };
  if (parsed.success) return { path, text, value: parsed.data as JsonObject, draft, mistakes: [] };
  const wrong = mistakesOf(parsed.error, value as Json).map((mistake) => locate(mistake));
  return { path, text, value: object, draft, mistakes: wrong };
}
