import { readFileSync, writeFileSync } from 'node:fs';
import type { Command } from '@commander-js/extra-typings';
import { RESOURCE } from '@pindro/contract';
import type { Mistake } from '@pindro/core';
import pc from 'picocolors';
import { type Context, QuietFailure, withService } from '../context.js';
import { collectOne, collectText } from '../input/pairs.js';
import { showSettings } from '../output/client-settings.js';
import { brief, facts, moment, table } from '../output/table.js';
import { wholeVerbs } from './common-verbs.js';
import { flowRunCommands } from './flow-run.js';
import { showGap } from './workspace.js';

export function flowCommands(program: Command): void {
  const flow = program
    .command('flow')
    .description(
      'flows: create, import, list, show, update, check, run, publish, compare, activate, expose, export, rename, copy, remove',
    );

  listCommand(flow);
  showCommand(flow);
  createCommand(flow);
  updateCommand(flow);

  wholeVerbs(flow, RESOURCE.flow, {
    named: '<name>',
  });

  checkCommand(flow);
  importCommand(flow);
  bundleCommand(flow);
  exportCommand(flow);
  compareCommand(flow);
  activateCommand(flow);

  flowRunCommands(flow);

  publishCommand(flow);
  exposeCommand(flow);
}

interface Written {
  file: string;
  document: string;
}

/** Takes documents in. One that names another of them waits for it: all that can be kept are, until none can any more. */
async function importFlows({ client, print }: Context, files: Written[], publish: boolean): Promise<void> {
  let left = files;
  const done: string[] = [];
  for (;;) {
    const refused: { one: Written; error: unknown }[] = [];
    for (const one of left) {
      try {
        const saved = await client.importFlow({ body: { document: one.document } });
        done.push(saved.name);
        const warnings = saved.warnings.map((warning) => `\n  ${pc.yellow('!')} ${warning.at}  ${warning.message}`);
        print(saved, `${pc.green('✓')} ${saved.name}: draft saved${warnings.join('')}`);
      } catch (error) {
        refused.push({ one, error });
      }
    }
    if (refused.length === 0) break;
    // Nothing more came of this round: what is left is wrong in itself.
    if (refused.length === left.length) throw refused[0]!.error;
    left = refused.map(({ one }) => one);
  }
  if (!publish) return;
  for (const name of done) {
    const { revision } = await client.publishFlow({ name, body: {} });
    print({ name, revision }, `${pc.green('✓')} ${name}: published as revision ${revision}`);
  }
}

/** Names of a bundle are matched whatever they name: the service knows which there is. */
async function importBundle(
  { client, print }: Context,
  document: string,
  options: { match: Record<string, string>; overwrite?: true },
) {
  const names = options.match;
  const match = Object.fromEntries(
    (['tables', 'servers', 'models', 'credentials', 'endpoints'] as const).map((sort) => [sort, names]),
  );
  const taken = await client.importBundle({ body: { document, match, overwrite: options.overwrite === true } });
  print(taken, () =>
    [
      ...taken.flows.map((flow) => `${pc.green('✓')} flow ${flow}: draft saved`),
      ...taken.tables.map((table) => `${pc.green('✓')} table ${table} created`),
      ...(taken.gaps.length > 0
        ? ['Still required, or to be matched with --match NAME=NAME:', ...taken.gaps.map(showGap)]
        : []),
    ].join('\n'),
  );
}

function showMistake(file: string, mistake: Mistake): string {
  const where = mistake.line === undefined ? mistake.at : `${mistake.line}:${mistake.column}`;
  return `${pc.red('✗')} ${file}:${where}  ${mistake.message}${mistake.hint ? `\n    ${pc.dim(mistake.hint)}` : ''}`;
}

function listCommand(flow: Command): void {
  flow
    .command('list [words]')
    .description('lists flows, optionally filtered by words in their name, title, description or labels')
    .option('--label <label>', 'only flows with this label')
    .action(
      withService(async ({ client, print }, [search], { label }: { label?: string }) => {
        const { items } = await client.listFlows({ query: { ...(search && { search }), ...(label && { label }) } });
        const rows = items.map((one) => [
          one.name,
          one.revision === null
            ? pc.yellow('not published')
            : `${one.revision}${one.changed ? pc.yellow(' + changes') : ''}`,
          String(one.steps),
          one.endpoints.join(', ') || '-',
          one.title,
        ]);
        print({ items }, () =>
          items.length > 0
            ? table(['FLOW', 'LIVE', 'STEPS', 'ENDPOINTS', 'TITLE'], rows)
            : search || label
              ? 'No matching flows.'
              : 'No flows yet. Create one with "pindro flow create NAME", or import one with "pindro flow import FILE".',
        );
      }),
    );
}

function showCommand(flow: Command): void {
  flow
    .command('show <name>')
    .description('shows the steps of a flow, or with --document its draft source')
    .option('--document', 'prints the draft source')
    .action(
      withService(async ({ client, print }, [name], { document }) => {
        const one = await client.getFlow({ name });
        if (document) return print(one, one.text.trimEnd());
        const head = facts([
          ['flow', `${one.name}  ${pc.dim(one.title)}`],
          ['for', one.description.trim()],
          [
            'live',
            one.revision === null
              ? 'not published'
              : `revision ${one.revision}${one.changed ? ', the draft differs' : ''}`,
          ],
          ['on', one.endpoints.join(', ') || 'no endpoint'],
          ['draft of', moment(one.updatedAt)],
        ]);
        const steps = one.cards.map(
          (card) =>
            `  ${pc.bold(card.name)} ${pc.dim(`(${card.kind})`)}  ${card.sentence.map((part) => (typeof part === 'string' ? part : pc.cyan(brief(part.value, 80)))).join('')}`,
        );
        print(one, `${head}\n\n${steps.join('\n')}`);
      }),
    );
}

function createCommand(flow: Command): void {
  flow
    .command('create <name>')
    .description('creates a flow with one step, to be edited in the console or in a file')
    .option('--title <title>', 'title for people')
    .action(
      withService(async ({ client, print }, [name], { title }: { title?: string }) => {
        const made = await client.saveDraft({
          name,
          body: {
            fresh: true,
            document: {
              ...{ format: 'pindro/flow@1', name, ...(title && { title }) },
              input: {
                type: 'object',
                required: ['who'],
                properties: { who: { type: 'string', description: 'Whom to greet' } },
              },
              steps: { greet: { kind: 'text', with: { text: 'Hello, ${ input.who }.' } } },
              result: '${ steps.greet.text }',
            },
          },
        });
        print(
          made.summary,
          `${pc.green('✓')} Created ${name}. Export its document with "pindro flow export ${name}", edit it, and import it with "pindro flow import FILE".`,
        );
      }),
    );
}

function updateCommand(flow: Command): void {
  flow
    .command('update <name>')
    .description('changes the metadata of the draft')
    .option('--title <title>', 'title for people')
    .option('--description <text>', 'its purpose, for models')
    .option('--label <label>', 'replaces all labels; repeatable, "" for none', collectOne, [])
    .action(
      withService(async ({ client, print }, [name], options) => {
        const { title, description } = options;
        const labels = options.label as string[];
        const changed = await client.updateFlow({
          name,
          body: {
            ...(title !== undefined && { title }),
            ...(description !== undefined && { description }),
            ...(labels.length > 0 && { labels: labels.filter(Boolean) }),
          },
        });
        print(changed, `${pc.green('✓')} Updated the draft of ${changed.name}; publish it to make the change live.`);
      }),
    );
}

function checkCommand(flow: Command): void {
  flow
    .command('check <file...>')
    .description('lists every mistake of flow documents, without a service')
    .action(
      withService(async ({ print }, [files]) => {
        const { checkFlow, warningsOf } = await import('@pindro/core');
        const results = files.map((file) => {
          const { mistakes, document } = checkFlow(readFileSync(file, 'utf8'));
          const warnings = document && mistakes.length === 0 ? warningsOf(document, {}) : [];
          return { file, mistakes: mistakes as Mistake[], warnings: warnings as Mistake[] };
        });
        print(results, () =>
          results
            .map(({ file, mistakes, warnings }) =>
              mistakes.length === 0
                ? [
                    `${pc.green('✓')} ${file}`,
                    ...warnings.map(({ message, hint }) => `  ${pc.yellow('!')} ${message}${hint ? `. ${hint}` : ''}`),
                  ].join('\n')
                : mistakes.map((mistake) => showMistake(file, mistake)).join('\n'),
            )
            .join('\n'),
        );
        if (results.some(({ mistakes }) => mistakes.length > 0)) throw new QuietFailure();
      }),
    );
}

function importCommand(flow: Command): void {
  flow
    .command('import <file...>')
    .description('saves documents as drafts of the flows they name, in any order; also imports bundles')
    .option('--publish', 'also publishes them')
    .option('--match <name=name>', 'for a bundle: local name for a referenced name; repeatable', collectText, {})
    .option('--overwrite', 'for a bundle: replaces flows of the same names')
    .action(
      withService(async (context, [files], options) => {
        const documents = files.map((file) => ({ file, document: readFileSync(file, 'utf8') }));
        const bundles = documents.filter(({ document }) => /^\s*"?format"?:\s*"?pindro\/bundle@1/m.test(document));
        const flows = documents.filter((one) => !bundles.includes(one));
        for (const { document } of bundles) await importBundle(context, document, options);
        await importFlows(context, flows, options.publish === true);
      }),
    );
}

function bundleCommand(flow: Command): void {
  flow
    .command('bundle <name> [file]')
    .description('exports a flow with the flows it calls, table columns, and references to the rest')
    .action(
      withService(async ({ client, print }, [name, file]) => {
        const { text } = await client.exportBundle({ name });
        if (!file) return print({ name, text }, text.trimEnd());
        writeFileSync(file, text);
        print({ name, file }, `${pc.green('✓')} Wrote ${file}: import it elsewhere with "pindro flow import ${file}"`);
      }),
    );
}

function exportCommand(flow: Command): void {
  flow
    .command('export <name>')
    .description('prints the draft source unchanged, including comments')
    .option('--revision <number>', 'a revision instead of the draft')
    .action(
      withService(async ({ client, print }, [name], { revision }: { revision?: string }) => {
        const { text } = revision ? await client.getRevision({ name, revision }) : await client.getFlow({ name });
        print({ name, text }, text.trimEnd());
      }),
    );
}

function compareCommand(flow: Command): void {
  flow
    .command('compare <name>')
    .description('compares two revisions, or the live revision with the draft')
    .option('--from <revision>', 'a number, live or draft', 'live')
    .option('--to <revision>', 'a number, live or draft', 'draft')
    .action(
      withService(async ({ client, print }, [name], { from, to }: Record<string, string>) => {
        const compared = await client.compareFlow({ name, query: { from: from as 'live', to: to as 'draft' } });
        const colour = { ' ': pc.dim, '+': pc.green, '-': pc.red };
        print(compared, () =>
          compared.changes.length === 0
            ? 'No differences.'
            : [
                ...compared.changes.map((change) => `• ${change.what}`),
                '',
                ...compared.lines.map(({ sign, text }) => colour[sign](`${sign} ${text}`)),
              ].join('\n'),
        );
      }),
    );
}

function activateCommand(flow: Command): void {
  flow
    .command('activate <name> <revision>')
    .description('makes a revision the live one')
    .action(
      withService(async ({ client, print }, [name, revision]) => {
        await client.activateRevision({ name, revision });
        print({ name, revision: Number(revision) }, `${pc.green('✓')} ${name}: revision ${revision} is live`);
      }),
    );
}

function publishCommand(flow: Command): void {
  flow
    .command('publish <name>')
    .description('publishes the draft as a revision and makes it live')
    .option('--note <text>', 'a note on what changed')
    .option('--force', 'even if it breaks what uses the flow')
    .action(
      withService(async ({ client, print }, [name], { note, force }: { note?: string; force?: boolean }) => {
        const body = { note: note ?? '', force: force === true };
        const { revision, fresh, blockers } = await client.publishFlow({ name, body });
        const still = blockers.map((one) => `\n  ${pc.yellow('!')} ${one}`).join('');
        print(
          { revision, fresh, blockers },
          fresh
            ? `${pc.green('✓')} ${name}: revision ${revision} is live${still}`
            : `${name}: revision ${revision} is already live; the draft has not changed${still}`,
        );
      }),
    );
}

function exposeCommand(flow: Command): void {
  flow
    .command('expose <name>')
    .description('publishes a flow, adds it to an endpoint, issues a key and prints client settings')
    .option('--endpoint <name>', 'endpoint to add it to; created if it does not exist', 'main')
    .option('--tool <name>', 'name of the tool; the name of the flow by default')
    .option('--description <text>', 'description for the model; that of the flow by default')
    .option('--caller <id>', 'on whose behalf the key calls', 'first-client')
    .option('--force', 'even if it breaks what uses the flow')
    .action(
      withService(async ({ client, print }, [name], options) => {
        const exposed = await client.exposeFlow({
          name,
          body: {
            endpoint: options.endpoint,
            caller: options.caller,
            force: Boolean(options.force),
            ...(options.tool && { tool: options.tool }),
            ...(options.description && { description: options.description }),
          },
        });
        print(exposed, () =>
          [
            `${pc.green('✓')} ${name} is published as revision ${exposed.revision}`,
            `${pc.green('✓')} tool ${pc.bold(exposed.tool)} is on endpoint ${pc.bold(exposed.endpoint.name)}: ${exposed.endpoint.url}`,
            `${pc.green('✓')} key for ${options.caller}, shown only once: ${pc.bold(exposed.key)}`,
            '',
            showSettings(exposed.settings),
          ].join('\n'),
        );
      }),
    );
}
