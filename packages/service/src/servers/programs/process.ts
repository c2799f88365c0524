import type { ChildProcess } from 'node:child_process';
import type { Program, ProgramValue } from '@pindro/contract';
import spawn from 'cross-spawn';
import type { ProgramPermit } from '../../policy/programs.js';
import { noteRunning } from './left-over.js';

/** Time for a program to exit after its input closes, and after a signal, in milliseconds. */
const TO_END = 1000;
const TO_BE_TOLD = 2000;
/** Environment of a program in addition to its settings: nothing of the service's own. */
const PASSED =
  /^(?:PATH|HOME|USER|LOGNAME|SHELL|LANG|LC_\w+|TZ|TMPDIR|TEMP|TMP|TERM|SYSTEMROOT|WINDIR|APPDATA|LOCALAPPDATA|USERPROFILE|PATHEXT|COMSPEC)$/i;
const GROUPS = process.platform !== 'win32';

/** Groups of processes that are to end with this one, however it ends. */
const running = new Set<number>();
let watching = false;
function endWithUs(group: number): void {
  running.add(group);
  noteRunning(running);
  if (watching) return;
  watching = true;
  process.once('exit', () => {
    for (const one of running) signal(one, 'SIGKILL');
  });
}

/** Tells all processes of a group. @returns whether there were any */
function signal(group: number, name: NodeJS.Signals): boolean {
  try {
    process.kill(GROUPS ? -group : group, name);
    return true;
  } catch {
    return false;
  }
}

/** How a program ended. */
export interface Ended {
  /** Its exit code; null where a signal ended it. */
  code: number | null;
  signal: NodeJS.Signals | null;
}

/** A program that was started, in a group of its own, so that what it starts ends with it. */
export class OwnProcess {
  readonly child: ChildProcess;
  readonly ended: Promise<Ended>;
  #isOver = false;

  /** @param values what the credentials hold that the program refers to, by their names */
  constructor(permit: ProgramPermit, values: Readonly<Record<string, string>>) {
    const { command, args, env, cwd } = filled(permit.program, values);
    const passed = Object.entries(process.env).filter(([name]) => PASSED.test(name));
    this.child = spawn(command, args, {
      env: { ...Object.fromEntries(passed), ...env },
      ...(cwd !== undefined && { cwd }),
      stdio: ['pipe', 'pipe', 'pipe'],
      detached: GROUPS,
      windowsHide: true,
    });
    const { pid } = this.child;
    if (pid !== undefined) endWithUs(pid);
    this.ended = new Promise((resolve) => {
      this.child.once('exit', (code, by) => {
        this.#isOver = true;
        if (pid !== undefined) void this.#endRest(pid);
        resolve({ code, signal: by });
      });
      // It could not be started at all.
      this.child.once('error', () => {
        if (pid === undefined) this.#isOver = true;
      });
    });
  }

  /** Ends it: first by the end of its input, then by telling it, then by force. @returns what it took */
  async end(): Promise<'input' | 'told' | 'force'> {
    const { pid } = this.child;
    this.child.stdin?.end();
    if (this.#isOver || pid === undefined) return 'input';
    if (await this.#within(TO_END)) return 'input';
    signal(pid, 'SIGTERM');
    if (await this.#within(TO_BE_TOLD)) return 'told';
    signal(pid, 'SIGKILL');
    await this.#within(TO_BE_TOLD);
    return 'force';
  }

  /** Ends it at once. */
  kill(): void {
    if (this.child.pid !== undefined) signal(this.child.pid, 'SIGKILL');
  }

  async #within(milliseconds: number): Promise<boolean> {
    let timer: NodeJS.Timeout | undefined;
    const late = new Promise<boolean>((resolve) => {
      timer = setTimeout(() => resolve(false), milliseconds);
    });
    return Promise.race([this.ended.then(() => true), late]).finally(() => clearTimeout(timer));
  }

  /** What it had started is of no use without it. */
  async #endRest(pid: number): Promise<void> {
    if (GROUPS && signal(pid, 'SIGTERM')) {
      await new Promise((resolve) => setTimeout(resolve, TO_END));
      signal(pid, 'SIGKILL');
    }
    running.delete(pid);
    noteRunning(running);
  }
}

/** The program with the secrets that it is given. */
function filled({ command, args, env, cwd }: Program, values: Readonly<Record<string, string>>) {
  const value = (one: ProgramValue) =>
    typeof one === 'string' ? one : `${one.before ?? ''}${values[one.credential] ?? ''}`;
  return {
    ...{ command, cwd, args: args.map(value) },
    env: Object.fromEntries(Object.entries(env).map(([name, one]) => [name, value(one)])),
  };
}
