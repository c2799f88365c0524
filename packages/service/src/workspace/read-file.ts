import { type Draft, isObject, type JsonObject, type Mistake, readDraft, readSource } from '@pindro/core';

const PATH = /^(flows|endpoints|servers|tables|models|entries)\/([a-z][a-z0-9-]*)\.(ya?ml|json)$/;

/** A file of a workspace as it was read. */
export interface ReadFile {
  path: string;
  text: string;
  value: JsonObject;
  /** What the file of a flow becomes. */
  draft: Draft | null;
  mistakes: Mistake[];
}

export function readFile(path: string, text: string): ReadFile {
  const [, kind, name] = PATH.exec(path) ?? [];
  if (!kind && path !== 'credentials.yaml')
    return {
      ...{ path, text, value: {}, draft: null },
      mistakes: [
        {
          at: '',
          message: 'It does not belong to a workspace',
          hint: 'Files stand as flows/NAME.yaml, endpoints/NAME.yaml and so on.',
        },
      ],
    };
  const draft = kind === 'flows' ? readDraft(text) : null;
  if (draft && !draft.document) return { path, text, value: {}, draft, mistakes: draft.mistakes };
  const { value, mistakes, locate } = readSource(text);
  const object = isObject(value) ? value : {};
  const named = kind === 'entries' ? object.flow : object.name;
  const misnamed = {
    at: '/name',
    message: `The file is named "${name}", but the document "${named}"`,
    hint: 'Give both the same name.',
  };
  const wrong = kind !== undefined && mistakes.length === 0 && named !== name;
  return { path, text, value: object, draft, mistakes: wrong ? [locate(misnamed)] : mistakes };
}
