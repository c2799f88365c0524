/*
 * Loaded into the service before it starts: notes the longest time for which the event loop did nothing else, in
 * milliseconds. Neither a busy machine, another thread, nor a host that takes the processors away counts: of the time on
 * the clock, the same less what was stolen from each processor, and the processor time of the main thread, the least is
 * taken. Requested by SIGUSR2; the answer is a file, and the count starts again. Linux keeps the processor time of a
 * thread to the nearest tick (4 ms), and stolen time to 10 ms.
 */
import { openSync, readSync, writeFileSync } from 'node:fs';
import { cpus } from 'node:os';

const file = process.env.PINDRO_BENCH_LOOP;
const EVERY = 4;
const STOLEN = 8;
const [threads, processors] = [cpus().length, openSync('/proc/stat', 'r')];
const schedule = openSync(`/proc/self/task/${process.pid}/schedstat`, 'r');
const buffer = Buffer.alloc(256);
const start = (descriptor) => buffer.latin1Slice(0, readSync(descriptor, buffer, 0, buffer.length, 0));
/** What the clock says, what each processor had stolen, and for how long the main thread ran, so far, in milliseconds. */
const now = () => ({
  clock: performance.now(),
  stolen: (Number(start(processors).split('\n', 1)[0].split(/\s+/)[STOLEN]) * 10) / threads,
  ran: Number(start(schedule).split(' ', 1)[0]) / 1e6,
});
let longest = 0;
let before = now();
const look = () => {
  const here = now();
  const clock = here.clock - before.clock - EVERY;
  longest = Math.max(longest, Math.min(clock, clock - (here.stolen - before.stolen), here.ran - before.ran));
  before = here;
};
setInterval(look, EVERY).unref();
process.on('SIGUSR2', () => {
  look();
  writeFileSync(file, String(longest));
  longest = 0;
});
