/*
 * Loaded into the service before it starts: notes the longest time for which the event loop did nothing else. Told in
 * milliseconds of processor time of this process, so that a busy machine does not count: what a block took of the clock,
 * or of the processor, whichever is less. Asked for by SIGUSR2; the answer is a file, and the count begins anew.
 */
import { writeFileSync } from 'node:fs';

const file = process.env.PINDRO_BENCH_LOOP;
const EVERY = 4;
let longest = 0;
let at = performance.now();
let used = process.cpuUsage();
const look = () => {
  const now = performance.now();
  const spent = process.cpuUsage(used);
  const block = Math.min(now - at - EVERY, (spent.user + spent.system) / 1000);
  if (block > longest) longest = block;
  at = now;
  used = process.cpuUsage();
};
setInterval(look, EVERY).unref();
process.on('SIGUSR2', () => {
  look();
  writeFileSync(file, String(longest));
  longest = 0;
});
