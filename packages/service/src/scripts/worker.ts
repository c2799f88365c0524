import { parentPort } from 'node:worker_threads';
import { asPindroError, type ScriptRequest } from '@pindro/core';
import { runScript } from '@pindro/core/sandbox';

/** Processor time of this process, in milliseconds: of a thread alone Node.js tells none. */
const used = (): number => {
  const { user, system } = process.cpuUsage();
  return (user + system) / 1000;
};

/* Runs one script after the other, away from everything else. */
parentPort!.on('message', async (request: ScriptRequest) => {
  try {
    parentPort!.postMessage({ done: await runScript(request, used) });
  } catch (error) {
    parentPort!.postMessage({ failed: asPindroError(error).toRecord() });
  }
});
