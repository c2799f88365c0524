import type { Transport } from '@modelcontextprotocol/sdk/shared/transport.js';
import type { JSONRPCMessage } from '@modelcontextprotocol/sdk/types.js';
import type { Program } from '@pindro/contract';
import { humanSize, isObject, PindroError } from '@pindro/core';
import { CapturedMessages } from '../calling/captured-exchanges.js';
import { LONGEST_MESSAGE } from '../connection/bounded-fetch.js';
import { type Ended, OwnProcess } from '../programs/process.js';
import { ODD, type Opening, type TransportKind } from './transport.js';

/** Number of other lines that are allowed before the first message, and their total size in bytes. */
const MOST_PROSE = 200;
const FLOOD = 4 * 1024 * 1024;

/** A program of this machine, spoken to through its standard input and output, a message a line. */
export const stdio: TransportKind = {
  open: (opening) => new ProgramTransport(opening),
  statusOf: () => undefined,
  // Every answer comes through the one pipe.
  isLost: (error) => error instanceof PindroError,
};

class ProgramTransport implements Transport {
  onclose?: () => void;
  onerror?: (error: Error) => void;
  onmessage?: (message: JSONRPCMessage) => void;
  #process: OwnProcess | null = null;
  readonly #capturing = new CapturedMessages();
  #isEnding = false;
  /** Whether nothing more is taken from it. */
  #isRefused = false;
  /** The last line that was no message. */
  #last: string | null = null;
  #messages = 0;
  #prose = 0;
  #written = 0;

  constructor(private readonly opening: Opening) {}

  async start(): Promise<void> {
    const { permit, values, log, server } = this.opening;
    if (!permit) throw new TypeError('no program to start');
    const { program } = permit;
    const own = new OwnProcess(permit, values);
    this.#process = own;
    const { child } = own;
    await new Promise<void>((resolve, reject) => {
      child.once('spawn', resolve);
      child.once('error', (error) => reject(notStarted(server, program, error)));
    });
    this.opening.started?.(`process ${child.pid}`);
    log.note(`started ${program.command} as process ${child.pid}`);
    child.on('error', () => {});
    // An exited program accepts no input; its exit reports that.
    child.stdin!.on('error', () => {});
    this.#read(child.stdout!, (line) => this.#heard(line));
    this.#read(child.stderr!, (line) => log.wrote(line));
    void own.ended.then((how) => this.#over(how));
  }

  async send(message: JSONRPCMessage): Promise<void> {
    const input = this.#process?.child.stdin;
    if (!input?.writable) throw new Error('the program no longer accepts input');
    const line = JSON.stringify(message);
    this.#capturing.sent('method' in message && 'id' in message ? message.id : undefined, line);
    if (!input.write(`${line}\n`))
      await new Promise<void>((resolve) => void input.once('drain', resolve).once('close', resolve));
  }

  async close(): Promise<void> {
    if (this.#isEnding) return;
    this.#isEnding = true;
    // Whoever waited in vain for a message should know what came instead.
    if (this.#messages === 0 && this.#last !== null && !this.#isRefused)
      this.opening.refused(this.#babbles(this.#last));
    const how = await this.#process?.end();
    if (how === 'force') this.opening.log.note('the program did not stop on request and was killed', 'warning');
    this.onclose?.();
  }

  /** Whole lines of a stream; one that is too long ends the program. */
  #read(stream: NodeJS.ReadableStream, take: (line: string) => void): void {
    let rest = '';
    stream.setEncoding('utf8');
    stream.on('data', (piece: string) => {
      const lines = (rest + piece).split('\n');
      rest = lines.pop()!;
      for (const line of lines) if (line.trim() !== '') take(line.replace(/\r$/, ''));
      if (rest.length > LONGEST_MESSAGE) this.#refuse(tooLarge(this.opening.server));
    });
    stream.on('end', () => rest.trim() !== '' && take(rest));
    stream.on('error', () => {});
  }

  #heard(line: string): void {
    if (this.#isEnding || this.#isRefused) return;
    const value = parsed(line);
    if (!isMessage(value)) {
      this.#prosed(line);
      return;
    }
    this.#messages++;
    this.#capturing.came(value, () => line);
    if (isWellFormed(value)) {
      this.onmessage?.(value);
      return;
    }
    // The pending request receives an error.
    const { id } = value as { id?: unknown };
    if (typeof id === 'number' || typeof id === 'string')
      this.onmessage?.({ jsonrpc: '2.0', id, error: { code: ODD.code, message: ODD.message, data: ODD } });
  }

  /** What stands where only messages belong. */
  #prosed(line: string): void {
    this.#prose++;
    this.#last = line;
    this.#written += line.length;
    if (this.#prose <= MOST_PROSE) this.opening.log.wrote(line, 'warning');
    const isDeaf = this.#messages === 0 && this.#prose >= MOST_PROSE;
    if (isDeaf || this.#written > FLOOD) this.#refuse(this.#babbles(line));
  }

  #babbles(line: string): PindroError {
    const { server } = this.opening;
    return new PindroError('program_babbles', { server, words: quoted(line) }, { details: { server } });
  }

  /** Ends the program because of what it wrote. */
  #refuse(error: PindroError): void {
    if (this.#isEnding || this.#isRefused) return;
    this.#isRefused = true;
    this.opening.refused(error);
    this.#process?.kill();
    this.onerror?.(error);
  }

  #over({ code, signal }: Ended): void {
    const { server, log } = this.opening;
    const how = signal ? `by ${signal}` : `with code ${code}`;
    log.note(`the program exited ${how}`, code === 0 && this.#isEnding ? 'info' : 'warning');
    if (this.#isEnding) return;
    this.#isEnding = true;
    if (this.#isRefused) {
      this.onclose?.();
      return;
    }
    const said = log.lastWords();
    const words = said.length > 0 ? `; last output: ${said.map(quoted).join(' ')}` : '';
    const error = new PindroError('program_ended', { server, how, words }, { details: { server } });
    this.opening.refused(error);
    this.onerror?.(error);
    this.onclose?.();
  }
}

const tooLarge = (server: string) =>
  new PindroError(
    'answer_too_large',
    { what: `Tool server "${server}"`, limit: humanSize(LONGEST_MESSAGE) },
    { details: { server } },
  );
const quoted = (line: string) => `“${line.trim().slice(0, 200)}”`;

function parsed(line: string): unknown {
  try {
    return JSON.parse(line);
  } catch {
    return undefined;
  }
}
const isMessage = (value: unknown): value is object =>
  (isObject(value) && 'jsonrpc' in value) || (Array.isArray(value) && value.length > 0 && value.every(isMessage));

/** Whether the client library can do something with a message: it looks at the rest itself. */
function isWellFormed(value: object): value is JSONRPCMessage {
  const { jsonrpc, method, id, result, error } = value as Record<string, unknown>;
  if (jsonrpc !== '2.0') return false;
  if (typeof method === 'string') return true;
  const isError = isObject(error) && typeof error.code === 'number' && typeof error.message === 'string';
  return id !== undefined && (isObject(result) || isError);
}

const WHY: Record<string, (program: Program) => { why: string; fix: string }> = {
  ENOENT: ({ command, cwd }) => ({
    why:
      cwd === undefined
        ? `this machine has no program ${command}`
        : `there is no program ${command}, or no working directory ${cwd}`,
    fix: 'Install it, or use its full path. The PATH is that of the service, not of your shell.',
  }),
  EACCES: ({ command }) => ({
    why: `${command} is not executable`,
    fix: 'Give the service permission to run it, or put its interpreter before it, such as node or python3.',
  }),
};

function notStarted(server: string, program: Program, error: NodeJS.ErrnoException): PindroError {
  const told = WHY[error.code ?? '']?.(program) ?? { why: error.message, fix: 'Try the command in a terminal.' };
  return new PindroError('program_not_started', { server, ...told }, { cause: error, details: { server } });
}
