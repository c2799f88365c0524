import { existsSync, readFileSync } from 'node:fs';
import type { Command } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { facts, moment, table } from '../output/table.js';
import { usage } from '../usage.js';
import { wholeVerbs } from './whole.js';

/** An address, or a file that is read here. */
function sourceOf(where: string): { url?: string; text?: string } {
  if (/^https?:\/\//.test(where)) return { url: where };
  if (!existsSync(where))
    throw usage(`There is no file ${where}`, 'Give a file, or an address that begins with http:// or https://.');
  return { text: readFileSync(where, 'utf8') };
}

const SIGNS = { same: ' ', changed: pc.yellow('~'), conflict: pc.red('!'), gone: pc.red('-') };

export function documentCommands(program: Command): void {
  const document = program
    .command('document')
    .description('OpenAPI documents as flows: read, take, list, show, update, change, rename, remove');
  document
    .command('read <file-or-address>')
    .description('lists what an OpenAPI document offers')
    .action(
      withService(async ({ client, print }, [where]) => {
        const read = await client.readDocument({ body: sourceOf(where!) });
        print(read, () =>
          [
            `${pc.bold(read.title)} ${read.version}  ${read.bases.join(', ')}`,
            ...(read.credential ? [`It wants ${read.credential}.`] : []),
            '',
            table(
              ['OPERATION', 'METHOD', 'PATH', 'WHAT IT DOES'],
              read.operations.map((one) => [
                one.id,
                one.method,
                one.path,
                one.trouble ? pc.yellow(one.trouble) : one.title,
              ]),
            ),
          ].join('\n'),
        );
      }),
    );
  document
    .command('take <file-or-address> [operation...]')
    .description('makes a flow of each operation; of all of them if none is named')
    .requiredOption('--name <name>', 'what the document is called here; flow names begin with it')
    .option('--credential <name>', 'the credential that goes along')
    .option('--base <address>', 'base address, if not the one in the document')
    .option('--endpoint <name>', 'publishes the flows and adds each to this endpoint as a tool')
    .action(
      withService(
        async (
          { client, print },
          [where, ...operations],
          { name, credential, base, endpoint }: Record<string, string>,
        ) => {
          const source = sourceOf(where!);
          const chosen = operations.filter(Boolean);
          const all =
            chosen.length > 0
              ? chosen
              : (await client.readDocument({ body: source })).operations
                  .filter((one) => !one.trouble)
                  .map((one) => one.id);
          const kept = await client.takeDocument({
            body: {
              ...{ ...source, name: name!, operations: all },
              ...(credential && { credential }),
              ...(base && { base }),
              ...(endpoint && { endpoint }),
            },
          });
          print(kept, () =>
            [
              ...kept.flows.map((flow) => `${pc.green('✓')} flow ${flow}`),
              ...(endpoint
                ? [
                    `${pc.green('✓')} ${kept.tools.length} tools on endpoint ${endpoint}: "pindro endpoint connect ${endpoint}"`,
                  ]
                : []),
            ].join('\n'),
          );
        },
      ),
    );
  document
    .command('list [words]')
    .description('OpenAPI documents that flows were made from, or those with these words in them')
    .action(
      withService(async ({ client, print }, [search]) => {
        const { items } = await client.listDocuments({ query: search ? { search } : {} });
        print({ items }, () =>
          items.length > 0
            ? table(
                ['NAME', 'TITLE', 'VERSION', 'FLOWS', 'FROM'],
                items.map((one) => [one.name, one.title, one.version, one.flows.join(', '), one.url ?? 'a file']),
              )
            : 'None yet. "pindro document take FILE --name NAME" makes flows of one.',
        );
      }),
    );
  document
    .command('change <name>')
    .description('changes where it is read, and the base address and credential of the flows made of it from now on')
    .option('--address <url>', 'where it is read; "" when it is handed in')
    .option('--base <address>', 'base address of the requests')
    .option('--credential <name>', 'the credential that goes along; "" for none')
    .action(
      withService(async ({ client, print }, [name], { address, base, credential }: Record<string, string>) => {
        const changed = await client.changeDocument({
          name: name!,
          body: {
            ...(address !== undefined && { url: address || null }),
            ...(base !== undefined && { base }),
            ...(credential !== undefined && { credential: credential || null }),
          },
        });
        print(changed, `${pc.green('✓')} ${changed.name} is changed`);
      }),
    );
  wholeVerbs(document, 'document', {
    named: '<name>',
    show: async (client, [name]) => {
      const one = await client.getDocument({ name: name! });
      const text = facts([
        ['document', `${one.name}  ${pc.dim(`${one.title} ${one.version}`)}`],
        ['read at', one.url ?? 'a file'],
        ['requests to', one.base],
        ['credential', one.credential ?? '-'],
        ['flows', one.flows.join(', ') || '-'],
        ['last read', moment(one.readAt)],
      ]);
      return { value: one, text };
    },
    rename: (client, [name], to) => client.renameDocument({ name: name!, body: { to } }),
    remove: (client, [name], query) => client.removeDocument({ name: name!, query }),
  });
  document
    .command('update <name> [file-or-address]')
    .description('says what a newer document changes; with --apply the flows take it over')
    .option('--apply', 'changes the drafts; what was edited here stays')
    .action(
      withService(async ({ client, print }, [name, where], { apply }) => {
        const outcome = await client.updateDocument({
          name: name!,
          body: { ...(where ? sourceOf(where) : {}), apply: apply === true },
        });
        print(outcome, () =>
          [
            ...outcome.items.map(({ flow, change, changes, conflicts }) =>
              [
                `${SIGNS[change]} ${pc.bold(flow)} ${change}`,
                ...changes.map((one) => `    ${one.what}`),
                ...conflicts.map((at) => pc.yellow(`    ${at} was edited here and stays`)),
              ].join('\n'),
            ),
            ...outcome.fresh.map(
              (one) => `${pc.green('+')} ${one.id} is new; "pindro document take" makes a flow of it`,
            ),
          ].join('\n'),
        );
      }),
    );
}
