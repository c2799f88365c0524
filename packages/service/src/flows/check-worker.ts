import { parentPort } from 'node:worker_threads';
import { checkFlow } from '@pindro/core';
import type { CheckRequest } from './checker.js';

/* Checks one document after the other, away from everything else. */
parentPort!.on('message', ({ id, text, surroundings }: CheckRequest) => {
  parentPort!.postMessage({ id, result: checkFlow(text, surroundings) });
});
