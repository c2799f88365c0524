/* The machine may give most of its time to others: clocks on the wall then say little about what is tested. */

/** Processor time that this process has used so far, in milliseconds. */
export function used(): number {
  const { user, system } = process.cpuUsage();
  return (user + system) / 1000;
}

/** What the same work takes on a machine that has nothing else to do, at the most, in milliseconds. */
const USUAL = 60;

/** A limit in milliseconds, as many times longer as this machine is slowed down just now. */
export function patience(limit: number): number {
  const start = performance.now();
  let sum = 0;
  for (let i = 0; i < 2e7; i++) sum += i % 7;
  const took = performance.now() - start;
  return sum > 0 ? limit * Math.max(1, took / USUAL) : limit;
}

/** Lets everything that can go on do so: a while, and then turns enough of the event loop, however slow they are. */
export async function settle(): Promise<void> {
  await new Promise((resolve) => setTimeout(resolve, 20));
  for (let turn = 0; turn < 200; turn++) await new Promise((resolve) => setImmediate(resolve));
}
