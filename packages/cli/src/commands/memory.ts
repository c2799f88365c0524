import type { Command } from '@commander-js/extra-typings';
import type { Memory, MemorySummary } from '@pindro/contract';
import pc from 'picocolors';
import { withService } from '../context.js';
import { brief, moment, table } from '../output/table.js';

const whose = ({ flow, caller, key }: Pick<MemorySummary, 'flow' | 'caller' | 'key'>) =>
  `${flow ?? 'shared'}${caller ? ` for ${caller}` : ''}, ${key.join(' / ')}`;

/** A memory as people read it. */
function showMemory(one: Memory): string {
  return [
    `${pc.bold(whose(one))}  ${pc.dim(`${one.stage}, ${moment(one.updatedAt)}`)}`,
    ...(one.abstract ? ['', pc.dim('summary'), one.abstract] : []),
    ...(one.notes.length > 0
      ? ['', pc.dim('notes'), ...one.notes.map(({ about, text }) => `${pc.cyan(about)}  ${text}`)]
      : []),
    ...(Object.keys(one.kept).length > 0
      ? [
          '',
          pc.dim('stored values'),
          ...Object.entries(one.kept).map(
            ([name, value]) =>
              `${pc.cyan(name)}  ${brief(typeof value === 'string' ? value : JSON.stringify(value), 300)}`,
          ),
        ]
      : []),
    ...(one.turns.length > 0
      ? [
          '',
          pc.dim('exchanges'),
          ...one.turns.map(
            ({ role, tool, text }) => `${pc.cyan(tool ?? role)}  ${brief(text || '(calls tools)', 300)}`,
          ),
        ]
      : []),
  ].join('\n');
}

export function memoryCommands(program: Command): void {
  const memory = program.command('memory').description('memories of agents: list, show, note, forget');

  memory
    .command('list [words]')
    .description('lists memories, most recent first, optionally filtered by words')
    .action(
      withService(async ({ client, print }, [search]) => {
        const { items } = await client.listMemories({ query: search ? { search } : {} });
        const rows = items.map((one) => [
          one.id,
          whose(one),
          String(one.exchanges),
          String(one.notes),
          moment(one.updatedAt),
        ]);
        print({ items }, () =>
          items.length > 0 ? table(['MEMORY', 'WHOSE', 'EXCHANGES', 'NOTES', 'CHANGED'], rows) : 'No memories yet.',
        );
      }),
    );

  memory
    .command('show <memory>')
    .description('shows one memory; with --json exports it')
    .action(
      withService(async ({ client, print }, [id]) => {
        const one = await client.getMemory({ id });
        print(one, () => showMemory(one));
      }),
    );

  memory
    .command('note <memory> <about> [text]')
    .description('corrects or adds a note; without a text deletes it')
    .action(
      withService(async ({ client, print }, [id, about, text]) => {
        const one = await client.correctNote({ id, body: { about, text: text || null } });
        print(one, `${pc.green('✓')} ${about}: ${text || 'deleted'}`);
      }),
    );

  memory
    .command('forget <memory>')
    .description('deletes a memory completely')
    .action(
      withService(async ({ client, print }, [id]) => {
        print(await client.deleteMemory({ id }), `${pc.green('✓')} forgotten`);
      }),
    );
}
