import { randomUUID } from 'node:crypto';
import { createInterface } from 'node:readline/promises';
import type { Outcome, StreamEvent } from '@pindro/contract';
import type { LiveEvent } from '@pindro/core/browser';
import type { Command } from 'commander';
import pc from 'picocolors';
import { type Context, QuietFailure, withService } from '../context.js';
import { showReceipt } from '../output/receipt.js';
import { safe } from '../output/safe.js';
import { brief } from '../output/table.js';
import { usage } from '../usage.js';

type Turn = (message: string) => AsyncIterable<StreamEvent>;

export function chatCommand(program: Command): void {
  program
    .command('chat [flow]')
    .description('talks to an agent flow, or with --server to the tools of one server')
    .option('-m, --message <text>', 'one turn instead of a conversation')
    .option('--session <name>', 'the conversation it belongs to; a new one if left out')
    .option('--server <name>', 'talks to the tools of a tool server, without any flow')
    .option('--live', 'talks to the live revision instead of the draft', false)
    .action(
      withService(async (context, [flow], options: Record<string, unknown>) => {
        const { client } = context;
        const server = options.server as string | undefined;
        if (!flow === !server) throw usage('A chat is with a flow, or with a tool server by --server NAME');
        // Before anybody writes a line to something that is not there.
        if (server) await client.getServer({ name: server });
        else await client.getFlow({ name: flow! });
        const session = (options.session as string | undefined) ?? randomUUID();
        const stage = options.live ? ('live' as const) : ('draft' as const);
        const turn: Turn = (message) =>
          server
            ? client.chatServer({ name: server, body: { message, session } })
            : client.watchFlow({ name: flow!, body: { input: { message }, stage, session, entry: 'chat' } });
        if (typeof options.message === 'string') {
          const outcome = await oneTurn(context, turn, options.message);
          if (outcome.state !== 'done') throw new QuietFailure();
        } else await conversation(context, turn, server ? `the tools of ${server}` : flow!);
      }),
    );
}

async function conversation(context: Context, turn: Turn, whom: string): Promise<void> {
  const lines = createInterface({ input: process.stdin, output: process.stdout, prompt: pc.green('you  ') });
  process.stdout.write(pc.dim(`Talking to ${whom}. An empty line or Ctrl-D ends it.\n`));
  // What a pipe brings may all be there, and the pipe closed, before the first answer is.
  let closed = false;
  lines.once('close', () => {
    closed = true;
  });
  const prompt = () => closed || lines.prompt();
  prompt();
  let failed = false;
  for await (const line of lines) {
    if (line.trim() === '') break;
    failed = (await oneTurn(context, turn, line)).state !== 'done';
    prompt();
  }
  lines.close();
  if (failed && !process.stdin.isTTY) throw new QuietFailure();
}

/** Shows a turn as it happens: text as it comes, each tool call with its arguments and how it went. */
async function oneTurn({ json }: Context, turn: Turn, message: string): Promise<Outcome> {
  let outcome: Outcome | null = null;
  let inText = false;
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
      write(pc.dim(`     → ${live.tool}${live.label ? ` (${live.label})` : ''} ${brief(live.arguments, 160)}\n`));
    else if (live.kind === 'progress')
      write(pc.dim(`       ${brief(live.message || `${live.tool}: ${live.progress}`, 160)}\n`));
    else if (live.kind === 'said') write(pc.dim(`       ${brief(live.text, 160)}\n`));
    else write(`     ${live.failed ? pc.red('✗') : pc.green('✓')} ${pc.dim(brief(live.text, 160))}\n`);
  }
  if (inText) write('\n');
  if (!outcome) throw new Error('The service ended the stream before the answer was there');
  if (json) process.stdout.write(`${JSON.stringify(outcome, null, 2)}\n`);
  else if (outcome.state === 'waiting')
    write(
      `${pc.yellow('○')} ${outcome.waitsFor?.what ?? 'It waits.'}\n  pindro approval list, then pindro approval approve or refuse; it goes on by itself\n`,
    );
  else write(showReceipt(outcome.receipt).join('\n'));
  if (!json && outcome.state !== 'done' && outcome.state !== 'waiting')
    write(`${pc.red('✗')} ${outcome.error?.message ?? outcome.state}\n  ${outcome.error?.hint ?? ''}\n`);
  write(pc.dim(`     pindro run show ${outcome.run}\n`));
  return outcome;
}
