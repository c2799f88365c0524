import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/*
 * Programs that outlive a service which was ended without a word (`kill -9`): most end with their input, and those that
 * do not are ended at the next start. They are known by their process and by when it began, so that no other is hit.
 */
let file: string | null = null;

/** When a process began, in the system's own count; null where it is not there, or the system does not say. */
function begunAt(pid: number): string | null {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    // The name in brackets may hold spaces; what follows is counted from there (proc(5), field 22).
    return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? null;
  } catch {
    return null;
  }
}

/** Ends what an earlier service left running, and notes from now on what runs. @param data the data directory */
export function endLeftOver(data: string): void {
  file = join(data, 'programs.json');
  if (!existsSync(file)) return;
  try {
    const left = JSON.parse(readFileSync(file, 'utf8')) as Record<string, string>;
    for (const [pid, begun] of Object.entries(left))
      if (begunAt(Number(pid)) === begun) process.kill(-Number(pid), 'SIGKILL');
  } catch {
    // It has exited, or the file was truncated: nothing to do.
  }
  rmSync(file, { force: true });
}

export function noteRunning(running: ReadonlySet<number>): void {
  if (file === null) return;
  const known = [...running].flatMap((pid) => {
    const begun = begunAt(pid);
    return begun === null ? [] : [[pid, begun] as const];
  });
  try {
    if (known.length === 0) rmSync(file, { force: true });
    else writeFileSync(file, JSON.stringify(Object.fromEntries(known)), { mode: 0o600 });
  } catch {
    // A full disk, or a directory that is gone, keeps no program from running.
  }
}
