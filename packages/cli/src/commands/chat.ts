import { randomUUID } from 'node:crypto';
import { createInterface } from 'node:readline';
import type { Command } from '@commander-js/extra-typings';
import type { Outcome, StreamEvent } from '@pindro/contract';
import type { LiveEvent } from '@pindro/core/browser';
import pc from 'picocolors';
import { type Ask, settle } from '../chat/decide.js';
import { type Context, EXIT, QuietFailure, withService } from '../context.js';
import { showReceipt } from '../output/receipt.js';
import { safe } from '../output/safe.js';
import { brief, terminalWidth } from '../output/table.js';
import { usage } from '../usage.js';

type Turn = (message: string) => AsyncIterable<StreamEvent>;

export function chatCommand(program: Command): void {
  program
    .command('chat [flow]')
    .description('chats with an agent flow, or with --server with the tools of one server')
    .option('-m, --message <text>', 'sends one message instead of starting a chat; waits for approvals')
    .option('--no-wait', 'with -m: does not wait for approvals; exits with 5 if one is pending')
    .option('--session <name>', 'the conversation to continue; a new one by default')
    .option('--server <name>', 'chats with the tools of a tool server, without a flow')
    .option('--live', 'uses the live revision instead of the draft', false)
    .action(
      withService(async (context, [flow], options) => {
        const { client } = context;
        const server = options.server as string | undefined;
        if (!flow === !server) throw usage('Name a flow, or a tool server with --server NAME');
        // Before anybody writes a line to something that is not there.
        if (server) await client.getServer({ name: server });
        else await client.getFlow({ name: flow! });
        const session = (options.session as string | undefined) ?? randomUUID();
        const stage = options.live ? ('live' as const) : ('draft' as const);
        const turnOf =
          (session: string): Turn =>
          (message) =>
            server
              ? client.chatServer({ name: server, body: { message, session } })
              : client.watchFlow({ name: flow!, body: { input: { message }, stage, session, entry: 'chat' } });
        if (typeof options.message === 'string')
          await single(context, turnOf(session), options.message, options.wait !== false);
        else await conversation(context, turnOf, session, server ? `the tools of ${server}` : flow!);
      }),
    );
}

/** One turn. Its approvals are answered at the terminal, or waited for where there is none. */
async function single(context: Context, turn: Turn, message: string, waits: boolean): Promise<void> {
  const terminal = waits && process.stdin.isTTY && !context.json ? new Terminal() : null;
  const outcome = await oneTurn(context, turn, message, terminal?.ask ?? null, waits);
  terminal?.close();
  if (outcome.state === 'waiting') process.exitCode = EXIT.waiting;
  else if (outcome.state !== 'done') throw new QuietFailure();
}

const HELP = `  /help   shows this
  /new    starts a new conversation
  /exit   ends the chat, as an empty line or Ctrl-D does
  An approval is answered with y, n, n REASON, or ARGUMENT=VALUE to change an argument first.
`;

/** Lines of standard input, and questions that are answered there. */
class Terminal {
  readonly #lines = createInterface({ input: process.stdin, terminal: false });
  readonly #next = this.#lines[Symbol.asyncIterator]();

  readonly ask: Ask = async (question) => {
    process.stdout.write(question);
    const { value, done } = await this.#next.next();
    if (!process.stdin.isTTY) process.stdout.write('\n');
    return done ? null : String(value);
  };

  close(): void {
    this.#lines.close();
  }
}

async function conversation(context: Context, turnOf: (session: string) => Turn, session: string, whom: string) {
  const terminal = new Terminal();
  process.stdout.write(pc.dim(`Chat with ${whom}. /help lists commands; an empty line ends it.\n`));
  let turn = turnOf(session);
  let failed = false;
  for (;;) {
    const line = await terminal.ask(pc.green('you  '));
    if (line === null || line.trim() === '' || line.trim() === '/exit') break;
    if (line.trim() === '/help') process.stdout.write(HELP);
    else if (line.trim() === '/new') turn = turnOf(randomUUID());
    else if (/^\/\w+$/.test(line.trim())) process.stdout.write(`Unknown command ${line.trim()}.\n${HELP}`);
    else failed = (await oneTurn(context, turn, line, terminal.ask)).state !== 'done';
  }
  terminal.close();
  if (failed && !process.stdin.isTTY) throw new QuietFailure();
}

/** Shows a turn as it happens: text as it comes, each tool call with its arguments and how it went. */
async function oneTurn(
  { json, client }: Context,
  turn: Turn,
  message: string,
  ask: Ask | null,
  waits = true,
): Promise<Outcome> {
  let outcome: Outcome | null = null;
  let inText = false;
  const room = (terminalWidth() ?? 180) - 12;
  const write = (text: string) => void (json || process.stdout.write(safe(text)));
  for await (const event of turn(message)) {
    if (event.type === 'outcome') outcome = event.outcome;
    if (event.type !== 'live') continue;
    const live = event.live as unknown as LiveEvent;
    if (live.kind === 'text') {
      write(inText ? live.text : `${pc.cyan('     ')}${live.text}`);
      inText = true;
      continue;
    }
    if (live.kind === 'step') continue;
    if (inText) write('\n');
    inText = false;
    if (live.kind === 'call')
      write(
        pc.dim(
          `     → ${brief(`${live.tool}${live.label ? ` (${live.label})` : ''} ${brief(live.arguments, 180)}`, room)}\n`,
        ),
      );
    else if (live.kind === 'progress')
      write(pc.dim(`       ${brief(live.message || `${live.tool}: ${live.progress}`, room)}\n`));
    else if (live.kind === 'said') write(pc.dim(`       ${brief(live.text, room)}\n`));
    else write(`     ${live.failed ? pc.red('✗') : pc.green('✓')} ${pc.dim(brief(live.text, room))}\n`);
  }
  if (inText) write('\n');
  if (!outcome) throw new Error('The service closed the stream before the answer');
  if (outcome.state === 'waiting' && waits) {
    if (!json && !ask)
      write(
        `${pc.yellow('○')} ${outcome.waitsFor?.what ?? 'Waiting.'}\n  Waiting for an approval: "pindro approval list". Ctrl-C stops waiting, not the run.\n`,
      );
    outcome = await settle(client, outcome, ask);
    if (outcome.state === 'done' && typeof outcome.result === 'string') write(`${pc.cyan('     ')}${outcome.result}\n`);
  }
  if (json) process.stdout.write(`${JSON.stringify(outcome, null, 2)}\n`);
  else if (outcome.state === 'waiting')
    write(
      `${pc.yellow('○')} ${outcome.waitsFor?.what ?? 'Waiting.'} \n  Decide with "pindro approval list" and "pindro approval approve"; it continues automatically.\n`,
    );
  else write(showReceipt(outcome.receipt).join('\n'));
  if (!json && outcome.state !== 'done' && outcome.state !== 'waiting')
    write(`${pc.red('✗')} ${outcome.error?.message ?? outcome.state}\n  ${outcome.error?.hint ?? ''}\n`);
  write(pc.dim(`     pindro run show ${outcome.run}\n`));
  return outcome;
}
