import { type ChildProcess, spawn } from 'node:child_process';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';

export const PINDRO = fileURLToPath(new URL('../../../packages/cli/bin/pindro.js', import.meta.url));

export interface Finished {
  code: number | null;
  out: string;
  err: string;
}

/** Runs the command line as a process. */
export function pindro(
  args: string[],
  options: { env?: NodeJS.ProcessEnv; input?: string; cwd?: string } = {},
): Promise<Finished> {
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, [PINDRO, ...args], {
      env: { PATH: process.env.PATH, NO_COLOR: '1', HOME: process.env.HOME, ...options.env },
      ...(options.cwd && { cwd: options.cwd }),
    });
    let out = '';
    let err = '';
    child.stdout.on('data', (piece) => {
      out += piece;
    });
    child.stderr.on('data', (piece) => {
      err += piece;
    });
    child.on('error', reject);
    child.on('close', (code) => resolve({ code, out, err }));
    child.stdin.end(options.input ?? '');
  });
}

export interface DemoContract {
  url: string;
  signIn: string;
  apiKey: string;
  endpoints: { name: string; url: string; keys: { caller: string; key: string }[] }[];
  flows: string[];
  toolServers: { name: string; url: string; pid: number }[];
  models: string[];
  /** What was broken, and the run that shows it. */
  broken: { code: string; about: string; run: string }[];
}
export interface Running<T> {
  contract: T;
  child: ChildProcess;
  lines: string[];
  stop(signal?: NodeJS.Signals): Promise<number | null>;
}

/** Starts a command that prints one line of JSON when it is ready and then stays. */
export function startReady<T>(args: string[], env: NodeJS.ProcessEnv = {}): Promise<Running<T>> {
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, [PINDRO, ...args], {
      env: { PATH: process.env.PATH, NO_COLOR: '1', ...env },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    const lines: string[] = [];
    let err = '';
    child.stderr.on('data', (piece) => {
      err += piece;
    });
    const ended = new Promise<number | null>((done) => child.once('exit', done));
    const stop = (signal: NodeJS.Signals = 'SIGTERM') => {
      child.kill(signal);
      return ended;
    };
    createInterface({ input: child.stdout }).on('line', (line) => {
      lines.push(line);
      if (lines.length === 1) resolve({ contract: JSON.parse(line) as T, child, lines, stop });
    });
    void ended.then((code) => reject(new Error(`pindro ${args.join(' ')} ended with ${code}: ${err}`)));
  });
}

export const startDemo = (data: string, ...more: string[]) =>
  startReady<DemoContract>(['demo', '--json', '--port', '0', '--data', data, ...more]);

/** The demo with whatever can break broken; no name leads out of this machine. */
export const startBrokenDemo = (data: string) =>
  startReady<DemoContract>(['demo', '--json', '--broken', '--port', '0', '--data', data], {
    NODE_OPTIONS: `--import ${new URL('./no-names.js', import.meta.url)}`,
  });
