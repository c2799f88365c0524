import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

import { PindroError } from '@pindro/core/browser';

export interface Shown {
  code: string;
  about: string;
  run: string;
}

/** What the demo keeps of its stand-ins between starts: their ports and keys, and whether the world is built. */
export interface Kept {
  ports: {
    port?: number;
    lift?: number;
    smtp?: number;
    mailbox?: number;
    model?: number;
    wholesaler?: number;
    faulty?: number;
    reworded?: number;
    stricter?: number;
  };
  liftKey: string;
  wholesalerKey: string;
  keys: { caller: string; key: string }[];
  built: boolean;
  /** The runs that were made by breaking something, once that was asked for. */
  broken?: Shown[];
  /** Examples that could not be made when the demo was built, each with why. */
  failedRuns?: string[];
}

const fileIn = (data: string) => join(data, 'demo.json');

/** @throws data_directory where something else is in the directory, or half a demo */
export function readKept(data: string): Kept | null {
  if (existsSync(fileIn(data))) return JSON.parse(readFileSync(fileIn(data), 'utf8')) as Kept;
  if (!existsSync(join(data, 'pindro.db'))) return null;
  throw new PindroError('data_directory', {
    ...{ path: data, why: 'the directory contains a workspace that is not a demo, or an incomplete demo' },
    fix: 'Choose another directory with --data. An incomplete demo can be deleted.',
  });
}

export function writeKept(data: string, kept: Kept): void {
  mkdirSync(data, { recursive: true });
  writeFileSync(fileIn(data), JSON.stringify(kept, null, 2), { mode: 0o600 });
}
