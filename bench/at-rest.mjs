/* How long the service takes to be ready, and how much memory it holds when nothing happens. */
import { readFileSync } from 'node:fs';
import { withService } from './service.mjs';

const BAR = { start: 2000, memory: 150 };

export async function start(say) {
  const times = [];
  for (let round = 1; round <= 5; round++) times.push(await withService(async ({ milliseconds }) => milliseconds));
  const ours = Math.round(times.sort((a, b) => a - b)[2]);
  say(`ready after ${times.map(Math.round).join(', ')} ms`);
  return { name: 'start', ours, reference: BAR.start, unit: 'ms', ratio: BAR.start / ours };
}

export async function idleMemory(say) {
  const ours = await withService(async ({ pid }) => {
    await new Promise((resolve) => setTimeout(resolve, 3000));
    return Math.round(Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))[1]) / 1024);
  });
  say(`resident: ${ours} MB`);
  return { name: 'idle-memory', ours, reference: BAR.memory, unit: 'MB', ratio: BAR.memory / ours };
}
