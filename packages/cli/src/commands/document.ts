import { existsSync, readFileSync } from 'node:fs';
import type { Command } from '@commander-js/extra-typings';
import { RESOURCE } from '@pindro/contract';
import pc from 'picocolors';
import { withService } from '../context.js';
import { facts, moment, table } from '../output/table.js';
import { usage } from '../usage.js';
import { wholeVerbs } from './common-verbs.js';

/** An address, or a file that is read here. */
function sourceOf(where: string): { url?: string; text?: string } {
  if (/^https?:\/\//.test(where)) return { url: where };
  if (!existsSync(where))
    throw usage(`File ${where} does not exist`, 'Give a file, or an address that starts with http:// or https://.');
  return { text: readFileSync(where, 'utf8') };
}

const SIGNS = { same: ' ', changed: pc.yellow('~'), conflict: pc.red('!'), gone: pc.red('-') };

export function documentCommands(program: Command): void {
  const document = program
    .command('document')
    .description('OpenAPI documents as flows: inspect, import, list, show, refresh, update, rename, remove');
  inspectCommand(document);
  importCommand(document);
  listCommand(document);
  updateCommand(document);
  wholeVerbs(document, RESOURCE.document, {
    named: '<name>',
    show: async (client, [name]) => {
      const one = await client.getDocument({ name: name! });
      const text = facts([
        ['document', `${one.name}  ${pc.dim(`${one.title} ${one.version}`)}`],
        ['address', one.url ?? 'a file'],
        ['base address', one.base],
        ['credential', one.credential ?? '-'],
        ['flows', one.flows.join(', ') || '-'],
        ['last read', moment(one.readAt)],
      ]);
      return { value: one, text };
    },
  });
  refreshCommand(document);
}

function inspectCommand(document: Command): void {
  document
    .command('inspect <file-or-address>')
    .description('lists the operations of an OpenAPI document')
    .action(
      withService(async ({ client, print }, [where]) => {
        const read = await client.inspectDocument({ body: sourceOf(where) });
        print(read, () =>
          [
            `${pc.bold(read.title)} ${read.version}  ${read.bases.join(', ')}`,
            ...(read.credential ? [`It requires ${read.credential}.`] : []),
            '',
            table(
              ['OPERATION', 'METHOD', 'PATH', 'DESCRIPTION'],
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
}

function importCommand(document: Command): void {
  document
    .command('import <file-or-address> [operation...]')
    .description('creates a flow from each named operation, or from all')
    .requiredOption('--name <name>', 'name of the document; flow names start with it')
    .option('--credential <name>', 'credential to send')
    .option('--base <address>', 'base address, if not the one in the document')
    .option('--endpoint <name>', 'publishes the flows and adds each to this endpoint as a tool')
    .action(
      withService(async ({ client, print }, [where, chosen], { name, credential, base, endpoint }) => {
        const source = sourceOf(where);
        const all =
          chosen.length > 0
            ? chosen
            : (await client.inspectDocument({ body: source })).operations
                .filter((one) => !one.trouble)
                .map((one) => one.id);
        const kept = await client.importDocument({
          body: {
            ...{ ...source, name, operations: all },
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
      }),
    );
}

function listCommand(document: Command): void {
  document
    .command('list [words]')
    .description('lists OpenAPI documents that flows were created from, optionally filtered by words')
    .action(
      withService(async ({ client, print }, [search]) => {
        const { items } = await client.listDocuments({ query: search ? { search } : {} });
        print({ items }, () =>
          items.length > 0
            ? table(
                ['NAME', 'TITLE', 'VERSION', 'FLOWS', 'FROM'],
                items.map((one) => [one.name, one.title, one.version, one.flows.join(', '), one.url ?? 'a file']),
              )
            : 'No documents yet. Import one with "pindro document import FILE --name NAME".',
        );
      }),
    );
}

function updateCommand(document: Command): void {
  document
    .command('update <name>')
    .description('changes its address, and the base address and credential of flows created from it later')
    .option('--address <url>', 'its address; "" if it is a file')
    .option('--base <address>', 'base address of the requests')
    .option('--credential <name>', 'credential to send; "" for none')
    .action(
      withService(async ({ client, print }, [name], { address, base, credential }: Record<string, string>) => {
        const changed = await client.updateDocument({
          name,
          body: {
            ...(address !== undefined && { url: address || null }),
            ...(base !== undefined && { base }),
            ...(credential !== undefined && { credential: credential || null }),
          },
        });
        print(changed, `${pc.green('✓')} Updated ${changed.name}`);
      }),
    );
}

function refreshCommand(document: Command): void {
  document
    .command('refresh <name> [file-or-address]')
    .description('lists what a newer document changes; with --apply updates the flows')
    .option('--apply', 'updates the drafts; your edits are preserved')
    .action(
      withService(async ({ client, print }, [name, where], { apply }) => {
        const outcome = await client.refreshDocument({
          name,
          body: { ...(where ? sourceOf(where) : {}), apply: apply === true },
        });
        print(outcome, () =>
          [
            ...outcome.items.map(({ flow, change, changes, conflicts }) =>
              [
                `${SIGNS[change]} ${pc.bold(flow)} ${change}`,
                ...changes.map((one) => `    ${one.what}`),
                ...conflicts.map((at) => pc.yellow(`    ${at} was edited and stays`)),
              ].join('\n'),
            ),
            ...outcome.fresh.map(
              (one) => `${pc.green('+')} ${one.id} is new; create a flow with "pindro document import"`,
            ),
          ].join('\n'),
        );
      }),
    );
}
