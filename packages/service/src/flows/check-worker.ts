import { parentPort } from 'node:worker_threads';
import { checkFlow, useHardStop } from '@pindro/core';
import { stopByClock } from '../platform/hard-stop.js';
import type { CheckRequest } from './checker.js';

useHardStop(stopByClock);

/* Checks one document after the other, away from everything else. */
parentPort!.on('message', ({ id, text, surroundings }: CheckRequest) => {
  parentPort!.postMessage({ id, result: checkFlow(text, surroundings) });
});
