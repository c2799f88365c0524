import { parentPort } from 'node:worker_threads';
import { asPindroError, type ScriptRequest } from '@pindro/core';
import { runScript } from '@pindro/core/sandbox';

/* Runs one script after the other, away from everything else. */
parentPort!.on('message', async (request: ScriptRequest) => {
  try {
    parentPort!.postMessage({ done: await runScript(request) });
  } catch (error) {
    parentPort!.postMessage({ failed: asPindroError(error).toRecord() });
  }
});
