import { spawn } from 'node:child_process';
import { createInterface } from 'node:readline';

/** Starts a process that prints one line of JSON when it is ready. @returns that line, the time it took, and how to stop */
export function startReady(args) {
  const start = performance.now();
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, args, { stdio: ['ignore', 'pipe', 'inherit'] });
    child.once('exit', (code) => reject(new Error(`${args.join(' ')} ended with code ${code}`)));
    createInterface({ input: child.stdout }).once('line', (line) => {
      const stop = () =>
        new Promise((done) => {
          child.removeAllListeners('exit');
          child.once('exit', done);
          child.kill('SIGTERM');
        });
      resolve({ ready: JSON.parse(line), milliseconds: performance.now() - start, pid: child.pid, stop });
    });
  });
}
