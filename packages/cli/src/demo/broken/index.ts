import type { Shown } from '../state.js';
import { AGENTS } from './agents.js';
import type { Broken, Ground } from './broken.js';
import { WAYS_IN } from './entry-points.js';
import { SERVERS, trustThem } from './servers.js';
import { STEPS } from './steps.js';

const BROKEN: readonly Broken[] = [...SERVERS, ...WAYS_IN, ...AGENTS, ...STEPS];

/** Breaks one thing after the other, and runs what was broken. */
export async function breakEverything(ground: Ground, say: (text: string) => void): Promise<Shown[]> {
  await trustThem(ground);
  const shown: Shown[] = [];
  for (const { code, about, run } of BROKEN) {
    say(`breaking ${shown.length + 1} of ${BROKEN.length}: ${about} …`);
    shown.push({ code, about, run: await run(ground) });
  }
  return shown;
}
