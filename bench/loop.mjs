/* Starts a service whose event loop is watched (`loop-monitor.mjs`), and asks for the longest block. */
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const MONITOR = fileURLToPath(new URL('./loop-monitor.mjs', import.meta.url));
const pause = (milliseconds) => new Promise((resolve) => setTimeout(resolve, milliseconds));

/** Arguments of Node.js for a watched service, and what asks it. The environment says where its answer goes. */
export function watched() {
  const folder = mkdtempSync(join(tmpdir(), 'pindro-loop-'));
  const file = join(folder, 'longest');
  process.env.PINDRO_BENCH_LOOP = file;
  return {
    node: ['--import', MONITOR],
    /** The longest block since it was last asked for, in milliseconds. @param pid of the service */
    async longest(pid) {
      rmSync(file, { force: true });
      process.kill(pid, 'SIGUSR2');
      while (!existsSync(file)) await pause(10);
      await pause(20);
      return Number(readFileSync(file, 'utf8'));
    },
    close: () => rmSync(folder, { recursive: true, force: true }),
  };
}
