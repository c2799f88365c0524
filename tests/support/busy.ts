import { spawn } from 'node:child_process';

/** Keeps the processors busy with loops that never rest, for as long as some work takes. */
export async function besideBusyLoops<T>(loops: number, work: () => Promise<T>): Promise<T> {
  const children = Array.from({ length: loops }, () =>
    // It ends by itself if whoever started it is gone.
    spawn(process.execPath, ['-e', 'const end = Date.now() + 900_000; while (Date.now() < end);'], { stdio: 'ignore' }),
  );
  try {
    return await work();
  } finally {
    for (const child of children) child.kill('SIGKILL');
  }
}
