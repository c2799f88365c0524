import { readFileSync } from 'node:fs';
import type { Command } from '@commander-js/extra-typings';
import {
  type Client,
  PART_WORDS,
  ProblemError,
  type RecognizedServerSummary,
  SPEAKS_WORDS,
  type TestPart,
} from '@pindro/contract';
import pc from 'picocolors';
import { type Context, QuietFailure, withService } from '../context.js';
import { readSecret } from '../input/secret.js';
import { safe } from '../output/safe.js';
import { table } from '../output/table.js';
import { usage } from '../usage.js';

interface Options {
  credential?: string;
  secret?: boolean;
  from?: string;
  only?: string[];
  preview?: boolean;
  plain?: string[];
  encrypt?: string[];
  skipTest?: boolean;
}

/** Attaches tool servers from whatever one has of them. */
export function serverAttach(server: Command): void {
  server
    .command('attach [name] [address...]')
    .description('attaches a tool server after testing it; detects its transport')
    .option('--credential <name>', 'credential to send')
    .option('--secret', 'prompts for a bearer key (or reads it from standard input) and stores it as a credential')
    .option(
      '--from <where>',
      'client settings, a request or a catalogue, as a file or an address; - reads standard input',
    )
    .option('--only <name>', 'attach only this server if the input holds several; repeatable', several)
    .option('--plain <name>', 'a value that is not a secret although it looks like one; repeatable', several)
    .option('--encrypt <name>', 'a value that is a secret although it does not look like one; repeatable', several)
    .option('--skip-test', 'saves it even if it does not respond')
    .option('--preview', 'shows what was recognized and corrected, without attaching')
    .addHelpText(
      'after',
      `
Examples: $ pindro server attach lift http://127.0.0.1:9000/mcp --secret $ pindro server attach trails -- node trail-report.js --region ridge $ pindro server attach --from settings.json --preview $ pindro server attach --from - then paste it`,
    )
    .action(
      withService(async (context, [name, words], options: Options) => {
        // What is several words is a command line; one that was quoted stays as it is.
        const address = words.length > 1 ? words.map(quoted).join(' ') : words[0];
        if (options.from !== undefined) return attachFrom(context, options, name || undefined);
        if (!name || !address)
          throw usage(
            'attach needs a name and an address or a command',
            'Or use --from FILE, or --from - to paste it.',
          );
        if (options.credential) return attachWith(context, name, address, options.credential);
        const secret = options.secret ? await readSecret(`Bearer key for ${name}: `) : undefined;
        if (options.preview) return look(context, await understood(context.client, address, options));
        context.print(
          ...told(
            await attachOne(context, address, {
              at: 0,
              name,
              ...(secret !== undefined && { secret }),
              ...insisting(options),
            }),
          ),
        );
      }),
    );
}

const several = (one: string, all: string[] = []) => [...all, one];
const insisting = ({ skipTest, plain = [], encrypt = [] }: Options) => ({
  ...(skipTest && { skipTest: true }),
  ...{ plain, encrypt },
});
const quoted = (word: string) => (/[\s"']/.test(word) || word === '' ? JSON.stringify(word) : word);

async function attachWith({ client, print, progress }: Context, name: string, url: string, credential: string) {
  progress(`connecting to ${url} …`);
  print(...told(await client.attachServer({ body: { name, url, credential } })));
}

async function attachFrom(context: Context, options: Options, name: string | undefined): Promise<void> {
  const text = await textFrom(context, options.from!, options.only);
  const all = await understood(context.client, text, options);
  const chosen = options.only?.length ? all.filter((one) => options.only!.includes(one.name)) : all;
  const unknown = options.only?.find((one) => !all.some(({ name }) => name === one));
  if (unknown)
    throw usage(`the input has no server named "${unknown}"`, `Available: ${all.map((one) => one.name).join(', ')}.`);
  if (options.preview) return look(context, chosen);
  if (name !== undefined && chosen.length > 1)
    throw usage(
      `one name cannot apply to ${chosen.length} servers`,
      'Choose one with --only NAME, or remove the name.',
    );
  const attached: Attached[] = [];
  for (const one of chosen) {
    if (!context.json) process.stdout.write(`${safe(describe(one))}\n`);
    const detail = await attachSaying(context, text, one, { ...insisting(options), name: name ?? one.name });
    if (!detail) continue;
    attached.push(detail);
    if (!context.json) process.stdout.write(`${safe(told(detail)[1])}\n`);
  }
  if (context.json) context.print({ items: attached }, '');
  if (attached.length < chosen.length) throw new QuietFailure();
}

/** Attaches one of several; a failure does not stop the others. */
async function attachSaying(
  context: Context,
  text: string,
  one: RecognizedServerSummary,
  more: { name: string; skipTest?: boolean; plain?: string[]; encrypt?: string[] },
): Promise<Attached | null> {
  const said = (title: string, hint: string) =>
    void process.stderr.write(`${pc.red('✗')} ${safe(title)}\n  ${safe(hint)}\n`);
  if (one.cannot) {
    said(`${one.name} is not attached`, one.cannot);
    return null;
  }
  try {
    const missing = allOf(one).filter((value) => value.missing);
    const values: Record<string, string> = {};
    for (const value of missing) values[value.name] = await readSecret(`${value.name} for ${one.name}: `);
    return await attachOne(context, text, { at: one.at, values, ...more });
  } catch (error) {
    if (!(error instanceof ProblemError)) throw error;
    said(error.problem.detail, error.problem.hint);
    return null;
  }
}

type Attached = Awaited<ReturnType<Client['attachServer']>>;
type Choice = Omit<Parameters<Client['attachRecognized']>[0]['body'], 'text'>;

/** Attaches, and asks for a key only after the server refused to work without one. */
async function attachOne({ client, connection, json }: Context, text: string, choice: Choice): Promise<Attached> {
  // A program on this machine is meant from where one is.
  const folder = isHere(connection.url) && !/^\s*https?:/i.test(text) ? { folder: process.cwd() } : {};
  const attach = async (more: Choice): Promise<Attached> => {
    for await (const event of client.attachWithProgress({ body: { text, ...folder, ...more } })) {
      if (event.type === 'attached') return event.server;
      if (event.type === 'failed') throw new ProblemError(event.problem);
      if (!json) tell(event);
    }
    throw new Error('The service closed the stream during the test; check the result with "pindro server list"');
  };
  try {
    return await attach(choice);
  } catch (error) {
    const wantsKey = error instanceof ProblemError && error.problem.code === 'server_wants_key';
    if (!wantsKey || choice.secret !== undefined || !process.stdin.isTTY) throw error;
    process.stderr.write(`${safe(error.problem.detail)}\n`);
    return attach({ ...choice, secret: await readSecret(`Bearer key for ${choice.name}: `) });
  }
}

/** One part of the test, once it is over. */
function tell({ part, state, says, took }: TestPart): void {
  // A program that reads this wants to know what failed alone.
  if (state === 'begun' || (state === 'done' && !process.stderr.isTTY)) return;
  const sign = state === 'done' ? pc.green('✓') : pc.red('✗');
  const time = !took ? '' : pc.dim(` ${took} ms`);
  process.stderr.write(
    `  ${sign} ${PART_WORDS[part].padEnd(10)} ${state === 'done' ? says : pc.red('failed')}${time}\n`,
  );
}

/** Returns the content of a file, of a catalogue at an address, or of pasted input. */
async function textFrom({ client }: Context, from: string, only: string[] = []): Promise<string> {
  if (from === '-') return readAll();
  if (!/^https?:/i.test(from)) return readFileSync(from, 'utf8');
  const { items } = await client.searchCatalogue({ body: { address: from, words: only.length === 1 ? only[0]! : '' } });
  return `[${items.map(({ text }) => text).join(',')}]`;
}

/** Finds servers in a catalogue of one's own. */
export function serverFind(server: Command): void {
  server
    .command('find [words...]')
    .description("searches a catalogue: a file or an address in the open registry's server.json format")
    .requiredOption('--in <where>', 'file or address of the catalogue; - reads standard input')
    .action(
      withService(async ({ client, print }, [words], options) => {
        const where = options.in;
        const source = /^https?:/i.test(where)
          ? { address: where }
          : { text: where === '-' ? await readAll() : readFileSync(where, 'utf8') };
        const found = await client.searchCatalogue({ body: { ...source, words: words?.join(' ') ?? '' } });
        const rows = found.items.map((one) => [one.name, one.version, one.title || one.description]);
        const more = found.more > 0 ? `\n${found.more} more; add words to narrow the search.` : '';
        print(found, () =>
          rows.length > 0
            ? `${table(['SERVER', 'VERSION', 'DESCRIPTION'], rows)}${more}\nAttach one with "pindro server attach --from ${where} --only NAME".`
            : 'No matching servers.',
        );
      }),
    );
}

const isHere = (url: string) => /^https?:\/\/(?:127\.|localhost|\[::1\])/.test(url);
const understood = async (client: Client, text: string, { plain = [], encrypt = [] }: Options) =>
  (await client.recognizeServers({ body: { text, plain, encrypt } })).items;

const told = (one: Attached): [unknown, string] => [
  one,
  `${pc.green('✓')} ${one.name} attached: ${one.about || one.where} over ${SPEAKS_WORDS[one.speaks]}; ${one.tools} tools (${one.toolList.map((tool) => tool.name).join(', ')})${one.heldTools.map(({ name, why }) => `\n  ${pc.yellow('on hold')} ${name}: ${why}`).join('')}`,
];

function look({ print }: Context, items: RecognizedServerSummary[]): void {
  print({ items }, () => items.map(describe).join('\n\n'));
}

const allOf = ({ headers, query, args, env }: RecognizedServerSummary) => [...headers, ...query, ...args, ...env];

/** What was understood of a server, and the corrections. */
function describe(one: RecognizedServerSummary): string {
  const values = allOf(one).map(({ name, value, secret, missing, why }) =>
    missing
      ? `${name} (prompted)`
      : secret
        ? `${name} (stored encrypted${why ? `: it ${why}` : ''})`
        : `${name}: ${value}`,
  );
  return [
    `${pc.bold(one.name)}  ${one.url ?? one.command}${one.title ? `  ${pc.dim(one.title)}` : ''}`,
    ...(values.length > 0 ? [`  values: ${values.join(', ')}`] : []),
    ...one.repairs.map((repair) => `  ${pc.yellow('corrected')} ${repair}`),
    ...(one.cannot ? [`  ${pc.red('✗')} ${one.cannot}`] : []),
  ].join('\n');
}

async function readAll(): Promise<string> {
  if (process.stdin.isTTY) process.stderr.write('Paste it, then press Ctrl D:\n');
  let text = '';
  for await (const piece of process.stdin) text += piece;
  return text;
}
