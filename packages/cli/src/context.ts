import { CommanderError, type CommandUnknownOpts, type OptionValues } from '@commander-js/extra-typings';
import { type Client, createClient, type ProblemDetails, ProblemError, UnreachableError } from '@pindro/contract';
import { catalogue, PindroError } from '@pindro/core/browser';
import pc from 'picocolors';
import { safe } from './output/safe.js';
import { type Connection, findConnection } from './settings.js';
import { usage } from './usage.js';

/** Exit codes of every command. */
export const EXIT = { done: 0, failed: 1, usage: 2, unreachable: 3, notAllowed: 4, waiting: 5 } as const;

export interface Context {
  client: Client;
  connection: Connection;
  json: boolean;
  /** Prints what the command is for: JSON for programs, the text for people. */
  print(value: unknown, text: string | (() => string)): void;
  /** Prints progress to standard error, at a terminal only. */
  progress(text: string): void;
}

/** Thrown by a command that has printed its result and failed. */
export class QuietFailure extends Error {}

/** Options that every command takes. */
interface GlobalOptions {
  url?: string;
  key?: string;
  settings?: string;
  json?: boolean;
}

/**
 * Runs a command's work with a client made from its settings, and turns what it throws into words and an exit code.
 * @param work receives the arguments and options as the command declares them: a misspelled option does not compile
 */
export function withService<Args extends unknown[], Options extends OptionValues>(
  work: (context: Context, args: Args, options: Options) => Promise<void>,
): (this: CommandUnknownOpts, ...given: [...Args, Options, CommandUnknownOpts]) => Promise<void> {
  return async function (this: CommandUnknownOpts, ...given) {
    const options = this.optsWithGlobals() as Options & GlobalOptions;
    const json = options.json === true;
    try {
      const connection = findConnection(options);
      const context: Context = {
        client: createClient({ url: connection.url, ...(connection.key && { key: connection.key }) }),
        connection,
        json,
        print: (value, text) =>
          void process.stdout.write(
            `${json ? JSON.stringify(value, null, 2) : safe(typeof text === 'string' ? text : text())}\n`,
          ),
        progress: (text) => void (process.stderr.isTTY && !json && process.stderr.write(`${pc.dim(text)}\n`)),
      };
      await work(context, given.slice(0, -2) as Args, options);
    } catch (error) {
      process.exitCode = report(error, json);
    }
  };
}

/** Prints an error and its fix. @returns the exit code */
export function report(error: unknown, json: boolean): number {
  if (error instanceof QuietFailure) return EXIT.failed;
  const problem = asProblem(error);
  if (json) process.stdout.write(`${JSON.stringify(problem, null, 2)}\n`);
  else process.stderr.write(`${safe(inWords(problem))}\n`);
  if (error instanceof UnreachableError) return EXIT.unreachable;
  if (problem.code === 'usage') return EXIT.usage;
  return problem.status === 401 || problem.status === 403 ? EXIT.notAllowed : EXIT.failed;
}

function asProblem(error: unknown): ProblemDetails {
  if (error instanceof CommanderError) return usage(error.message.replace(/\.$/, '')).toProblem();
  if (error instanceof ProblemError) return error.problem;
  if (error instanceof PindroError) return error.toProblem();
  if (error instanceof UnreachableError) {
    return {
      type: 'urn:pindro:error:service_unreachable',
      title: 'Service unreachable',
      status: 0,
      detail: error.message,
      code: 'service_unreachable',
      hint: 'Start it with "pindro serve" or "npm run demo", or set its address with --url or PINDRO_URL.',
    };
  }
  const file = fileProblem(error);
  if (file) return file.toProblem();
  return {
    type: 'about:blank',
    title: 'Internal',
    status: catalogue.internal.http,
    detail: error instanceof Error ? error.message : String(error),
    code: 'internal',
    hint: '',
  };
}

const FILE_TROUBLE: Record<string, string> = {
  ENOENT: 'it does not exist',
  EISDIR: 'it is a folder, but a file is expected',
  ENOTDIR: 'a part of its path is not a folder',
  EACCES: 'no read permission',
  EPERM: 'no permission',
  ENOSPC: 'the disk is full',
};

/** What the system says of a file, as words. */
function fileProblem(error: unknown): PindroError | null {
  const { code = '', path } = error as NodeJS.ErrnoException;
  const why = FILE_TROUBLE[code];
  return why
    ? new PindroError(
        'file_unreadable',
        { path: path ?? 'The file or folder', why, fix: `Check the path, relative to ${process.cwd()}.` },
        { cause: error },
      )
    : null;
}

function inWords(problem: ProblemDetails): string {
  const mistakes = (problem.mistakes ?? []).map((mistake) => {
    const where = mistake.line === undefined ? mistake.at : `line ${mistake.line}, column ${mistake.column}`;
    return `  ${pc.dim(where.padEnd(20))} ${mistake.message}${mistake.hint ? `\n  ${' '.repeat(20)} ${pc.dim(mistake.hint)}` : ''}`;
  });
  return [`${pc.red('✗')} ${problem.detail}`, ...mistakes, ...(problem.hint ? [`  ${problem.hint}`] : [])].join('\n');
}
