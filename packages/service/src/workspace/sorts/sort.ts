import type { JsonObject } from '@pindro/core';
import type { z } from 'zod';
import type { Parts } from '../../platform/capability.js';

/** What a workspace is written from and read into. */
export const WORKSPACE_PARTS = [
  ...(['config', 'former', 'flows', 'checker', 'surroundings', 'endpoints', 'tables', 'servers'] as const),
  ...(['models', 'credentials', 'keys', 'people', 'entries', 'documents', 'workshopParts'] as const),
] as const;
export type WorkspaceParts = Pick<Parts, (typeof WORKSPACE_PARTS)[number] | 'bus' | 'resources'>;

/** Optional parts of an export. */
export interface Wanted {
  rows: boolean;
  people: boolean;
  /** Leaves out what is live: what arrives is drafts. */
  drafts: boolean;
}

/** What only a person can supply, and the command that does it. */
export interface Gap {
  what: string;
  command: string;
}

/** Documents by path; one that is a text is kept as it was written. */
export type Documents = Record<string, string | JsonObject>;

/** One sort of file in a workspace. A sort is one file here and one line in the registry. */
export interface Sort<Value = JsonObject> {
  /** A folder, with a file for each; or the name of its one file. */
  readonly at: string;
  /** The property that says the name of the file. */
  readonly named?: string;
  /** Whether it adds what is missing, and changes what is here only on request. */
  readonly adds?: true;
  /** Its schema; omitted if checked elsewhere. */
  readonly shape?: z.ZodType<Value>;
  write(parts: WorkspaceParts, wanted: Wanted): Documents;
  /** Imports a file inside a transaction, replacing existing things on request. @returns whether anything changed */
  keep?(value: Value, parts: WorkspaceParts, overwrite: boolean): boolean;
  /** Whether an import changes nothing, although the file differs from what is here. */
  unchanged?(value: Value, parts: WorkspaceParts): boolean;
  /** What is missing after the import. */
  gaps?(value: Value, parts: WorkspaceParts): Gap[];
  /** What may be done only once all is on disk. */
  after?(value: Value, parts: WorkspaceParts): void;
}

export const defineSort = <Value>(sort: Sort<Value>): Sort => sort as unknown as Sort;

/** Stands where a secret would, which no file holds. */
export const GIVE_AGAIN = 'GIVE-IT-AGAIN';

/** An argument for a shell, quoted where it needs to be. */
export const quoted = (text: string): string =>
  /^[\w@%+=:,./-]+$/.test(text) ? text : `'${text.replaceAll("'", "'\\''")}'`;
