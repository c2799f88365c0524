import type { ServerChanges, ServerList, ServerLogLine } from '@pindro/contract';
import type { Command } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { safe } from '../output/safe.js';
import { moment } from '../output/table.js';

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
    ['accept', 'takes tools as they are now; all that wait if none is named', 'as they are now'],
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
    .command('allow <name>')
    .description('lets a program run that came out of a file')
    .action(
      withService(async ({ client, print, progress }, [name]) => {
        progress(`starting ${name} …`);
        const one = await client.allowProgram({ name: name! });
        print(one, `${pc.green('✓')} ${one.name} may run: ${one.where}`);
      }),
    );
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
        ...(held ? [`  ${pc.yellow('held back')}${refused ? ` because ${refused} would not have it` : ''}`] : []),
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
