import type { Command } from '@commander-js/extra-typings';
import {
  commandLine,
  type ProgramPermission,
  type ProgramValue,
  type ServerChanges,
  type ServerList,
  type ServerLogLine,
} from '@pindro/contract';
import pc from 'picocolors';
import { withService } from '../context.js';
import { requireYes } from '../input/confirm.js';
import { safe } from '../output/safe.js';
import { facts, moment } from '../output/table.js';

/** How a tool server's tools changed, what becomes of that, and what happened with it. */
export function serverWatch(server: Command): void {
  server
    .command('changes <name>')
    .description('compares its tools with the accepted ones, with the consequences and tools on hold')
    .action(
      withService(async ({ client, print }, [name]) => {
        const changes = await client.serverChanges({ name });
        print(changes, () => shown(changes));
      }),
    );
  for (const [verb, how, done] of [
    ['accept', 'accepts tools in their present form; without names, all that are not flagged', 'in their present form'],
    [
      'reject',
      'rejects tools in their present form: they stay on hold until they change again',
      'in their present form',
    ],
  ] as const)
    server
      .command(`${verb} <name> [tools...]`)
      .description(how)
      .action(
        withService(async ({ client, print }, [name, named]) => {
          const body = named.length > 0 ? { tools: named } : {};
          const ask = verb === 'accept' ? client.acceptChanges : client.rejectChanges;
          const changes = await ask({ name, body });
          const what = named.length > 0 ? named.join(', ') : 'all pending tools';
          print(changes, `${pc.green('✓')} ${what}: ${done}\n${shown(changes)}`);
        }),
      );
  server
    .command('history <name>')
    .description('lists its previous tool lists, most recent first, each with its changes')
    .action(
      withService(async ({ client, print }, [name]) => {
        const { items } = await client.serverHistory({ name });
        print({ items }, () => items.map(listed).join('\n\n') || 'No tools have been listed yet.');
      }),
    );
  server
    .command('log <name>')
    .description('shows recent activity: program output, notifications, actions')
    .option('--follow', 'keeps printing new entries until Ctrl C')
    .option('--tail <count>', 'only the last entries', Number)
    .action(
      withService(async ({ client, print, json }, [name], options: { follow?: boolean; tail?: number }) => {
        const read = async (after: number) => (await client.serverLog({ name, query: { after } })).items;
        const all = await read(0);
        const items = options.tail ? all.slice(-options.tail) : all;
        print({ items }, () => items.map(line).join('\n') || 'No activity since the service started.');
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
      'shows or chooses the model that reviews new and changed tools; it can put tools on hold in addition to the rules',
    )
    .option('--model <name>', 'model connection for the review')
    .option('--off', 'disables the model review')
    .action(
      withService(async ({ client, print }, _args, { model, off }: { model?: string; off?: boolean }) => {
        const chosen = model ?? (off ? null : undefined);
        const now =
          chosen === undefined ? await client.toolReview() : await client.setToolReview({ body: { model: chosen } });
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
    .description('allows the program of a tool server to run, after showing it')
    .option('--yes', 'allows it without asking')
    .action(
      withService(async ({ client, print, progress, json }, [name], options: { yes?: boolean }) => {
        const permission = await client.programPermission({ name });
        if (!options.yes) {
          process.stderr.write(`${safe(permissionText(permission))}\n`);
          await requireYes(`Allow ${name} to run this program on the machine of the service?`, json);
        }
        progress(`starting ${name} …`);
        const one = await client.allowProgram({ name, body: permission.fingerprint });
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
  if (items.length === 0) return `The tools of ${name} have not changed since they were accepted.`;
  return items
    .map(({ flags, held, refused, ...change }) =>
      [
        ...changed(change),
        ...flags.map(({ says, at, quote }) => `  ${pc.red('✗')} ${says} ${pc.dim(`(${at})`)}\n    “${quote}”`),
        held ? `  ${pc.yellow('on hold')}${refused ? ` because ${refused} rejected it` : ''}` : `  ${pc.dim('in use')}`,
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
