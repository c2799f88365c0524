import {
  commandLine,
  type ProgramPermission,
  type ProgramValue,
  type ServerChanges,
  type ServerList,
  type ServerLogLine,
} from '@pindro/contract';
import type { Command } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { requireYes } from '../input/confirm.js';
import { safe } from '../output/safe.js';
import { facts, moment } from '../output/table.js';

/** How a tool server's tools changed, what becomes of that, and what happened with it. */
export function serverWatch(server: Command): void {
  server
    .command('changes <name>')
    .description('how its tools differ from what was accepted, what that breaks, and what is held back')
    .action(
      withService(async ({ client, print }, [name]) => {
        const changes = await client.serverChanges({ name: name! });
        print(changes, () => shown(changes));
      }),
    );
  for (const [verb, how, done] of [
    ['accept', 'accepts tools as they are now; without names all that are not flagged', 'as they are now'],
    [
      'refuse',
      'would not have tools as they are now: they stay held back until they change again',
      'not as they are now',
    ],
  ] as const)
    server
      .command(`${verb} <name> [tools...]`)
      .description(how)
      .action(
        withService(async ({ client, print }, [name, ...tools]) => {
          const named = tools.filter(Boolean);
          const body = named.length > 0 ? { tools: named } : {};
          const ask = verb === 'accept' ? client.acceptChanges : client.refuseChanges;
          const changes = await ask({ name: name!, body });
          const what = named.length > 0 ? named.join(', ') : 'all that waited';
          print(changes, `${pc.green('✓')} ${what}: ${done}\n${shown(changes)}`);
        }),
      );
  server
    .command('lists <name>')
    .description('the tool lists that it had, the latest first, each with how it differs from the one before')
    .action(
      withService(async ({ client, print }, [name]) => {
        const { items } = await client.serverLists({ name: name! });
        print({ items }, () => items.map(listed).join('\n\n') || 'Its tools have not been seen yet.');
      }),
    );
  server
    .command('log <name>')
    .description('what happened with it lately: what its program wrote, what it told, what was done with it')
    .option('--follow', 'goes on with what happens from now on, until Ctrl C')
    .option('--last <count>', 'only so many lines', Number)
    .action(
      withService(async ({ client, print, json }, [name], options: { follow?: boolean; last?: number }) => {
        const read = async (after: number) => (await client.serverLog({ name: name!, query: { after } })).items;
        const all = await read(0);
        const items = options.last ? all.slice(-options.last) : all;
        print({ items }, () => items.map(line).join('\n') || 'Nothing has happened with it since the service started.');
        let after = all.at(-1)?.id ?? 0;
        while (options.follow) {
          await new Promise((resolve) => setTimeout(resolve, 1000));
          const more = await read(after);
          for (const one of more) process.stdout.write(`${json ? JSON.stringify(one) : safe(line(one))}\n`);
          after = more.at(-1)?.id ?? after;
        }
      }),
    );
  server
    .command('review')
    .description(
      'shows or chooses the model that reviews new and changed tools; it can hold tools back in addition to the rules',
    )
    .option('--model <name>', 'chooses the model connection that reviews')
    .option('--off', 'turns the model review off')
    .action(
      withService(async ({ client, print }, _args, { model, off }: { model?: string; off?: boolean }) => {
        const chosen = model ?? (off ? null : undefined);
        const now =
          chosen === undefined ? await client.toolReview() : await client.chooseToolReview({ body: { model: chosen } });
        const cost = now.cost > 0 ? `, ${now.cost.toFixed(4)} in the currency of its prices` : '';
        print(now, () => {
          if (now.model === null && now.reviewed === 0)
            return 'No model reviews tools of servers. Choose one with "pindro server review --model NAME".';
          return facts([
            ['reviewed by', now.model ?? 'no model'],
            ['evaluated', `${now.reviewed} tools, ${now.flagged} found harmful`],
            ['used', `${now.tokens} tokens${cost}`],
          ]);
        });
      }),
    );
  server
    .command('allow <name>')
    .description('allows the program of a tool server to run, after showing what it is')
    .option('--yes', 'allows it without asking')
    .action(
      withService(async ({ client, print, progress, json }, [name], options: { yes?: boolean }) => {
        const permission = await client.programPermission({ name: name! });
        if (!options.yes) {
          process.stderr.write(`${safe(permissionText(permission))}\n`);
          await requireYes(`Allow ${name} to run this on the machine of the service?`, json);
        }
        progress(`starting ${name} …`);
        const one = await client.allowProgram({ name: name!, body: permission.fingerprint });
        print(one, `${pc.green('✓')} ${one.name} may run: ${one.where}`);
      }),
    );
}

/** What a program runs, for a person who is to allow it. */
function permissionText({ fingerprint, before }: ProgramPermission): string {
  const { cwd, env, files } = fingerprint;
  const value = (one: ProgramValue) =>
    typeof one === 'string' ? one : `${one.before ?? ''}(credential ${one.credential})`;
  const isNew = (path: string, sha256: string) =>
    before && !before.fingerprint.files.some((one) => one.path === path && one.sha256 === sha256);
  return facts([
    ['command', commandLine(fingerprint)],
    ...(cwd === undefined ? [] : [['folder', cwd] as [string, string]]),
    ...Object.entries(env).map(([name, one]): [string, string] => ['environment', `${name}=${value(one)}`]),
    ...files.map(({ path, sha256 }): [string, string] => [
      'file',
      `${path}  sha256 ${sha256}${isNew(path, sha256) ? pc.yellow('  changed') : ''}`,
    ]),
    ['allowed before', before ? `by ${before.by ?? 'an earlier version'}` : 'no'],
  ]);
}

type Change = Omit<ServerChanges['items'][number], 'description' | 'flags' | 'held' | 'since' | 'refused'>;
const KINDS = {
  new: pc.green('new'),
  gone: pc.red('gone'),
  renamed: pc.yellow('renamed'),
  changed: pc.yellow('changed'),
};

function changed({ tool, kind, was, parts, breaks }: Change): string[] {
  return [
    `${pc.bold(tool)}  ${KINDS[kind]}${was ? ` from ${was}` : ''}`,
    ...parts.flatMap(({ at, before, after }) => [
      `  ${pc.dim(at)}`,
      ...(before === null ? [] : [`    ${pc.red(`- ${before}`)}`]),
      ...(after === null ? [] : [`    ${pc.green(`+ ${after}`)}`]),
    ]),
    ...breaks.map((sentence) => `  ${pc.yellow('breaks')} ${sentence}`),
  ];
}

function shown({ items, name }: ServerChanges): string {
  if (items.length === 0) return `Nothing of ${name} differs from what was accepted.`;
  return items
    .map(({ flags, held, refused, ...change }) =>
      [
        ...changed(change),
        ...flags.map(({ says, at, quote }) => `  ${pc.red('✗')} ${says} ${pc.dim(`(${at})`)}\n    “${quote}”`),
        held
          ? `  ${pc.yellow('held back')}${refused ? ` because ${refused} would not have it` : ''}`
          : `  ${pc.dim('in use already')}`,
      ].join('\n'),
    )
    .join('\n\n');
}

const WHAT = { attached: 'attached', seen: 'seen', accepted: 'accepted', refused: 'refused' };
const listed = ({ at, what, by, about, tools, changes }: ServerList): string =>
  [
    `${pc.dim(moment(at))}  ${WHAT[what]}${by ? ` by ${by}` : ''}${what === 'seen' || what === 'attached' ? `: ${tools} tools` : `: ${about.join(', ')}`}`,
    ...(what === 'seen' ? changes.flatMap(changed).map((text) => `  ${text}`) : []),
  ].join('\n');

const LEVELS = { info: (text: string) => text, warning: pc.yellow, error: pc.red };
const line = ({ at, from, level, text }: ServerLogLine): string =>
  `${pc.dim(moment(at).slice(11))} ${pc.dim(from.padEnd(7))} ${LEVELS[level](text)}`;
