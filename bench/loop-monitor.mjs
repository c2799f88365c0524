/*
 * Loaded into the service before it starts: notes the longest time for which the event loop did nothing else. Given in
 * milliseconds of processor time of the main thread, so that neither a busy machine nor another thread counts: what a
 * block took of the clock, or of the processor, whichever is less. Requested by SIGUSR2; the answer is a file, and the
 * count starts again. Linux keeps the processor time of a thread to the nearest tick (4 ms).
 */
import { openSync, readSync, writeFileSync } from 'node:fs';

const file = process.env.PINDRO_BENCH_LOOP;
const EVERY = 4;
const schedule = openSync(`/proc/self/task/${process.pid}/schedstat`, 'r');
const buffer = Buffer.alloc(64);
/** Milliseconds that the main thread ran so far. */
const spent = () => {
  const length = readSync(schedule, buffer, 0, buffer.length, 0);
  return Number(buffer.latin1Slice(0, length).split(' ', 1)[0]) / 1e6;
};
let longest = 0;
let at = performance.now();
let used = spent();
const look = () => {
  const now = performance.now();
  const total = spent();
  const block = Math.min(now - at - EVERY, total - used);
  if (block > longest) longest = block;
  at = now;
  used = total;
};
setInterval(look, EVERY).unref();
process.on('SIGUSR2', () => {
  look();
  writeFileSync(file, String(longest));
  longest = 0;
});
