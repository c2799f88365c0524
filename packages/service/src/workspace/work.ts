import { compareLines, writeText } from '@pindro/core';
import { readBundle } from './read-bundle.js';
import { readFile } from './read-file.js';

/** What is done with the files of a workspace, in a thread where they are long. */
export const fileWork = { read: readFile, readBundle, write: writeText, compare: compareLines };
