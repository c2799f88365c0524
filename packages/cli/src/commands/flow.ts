import { readFileSync, writeFileSync } from 'node:fs';
import type { Mistake } from '@pindro/core';
import type { Command } from 'commander';
import pc from 'picocolors';
import { type Context, QuietFailure, withService } from '../context.js';
import { collectOne, collectText } from '../input/pairs.js';
import { showSettings } from '../output/client-settings.js';
import { brief, facts, moment, table } from '../output/table.js';
import { flowRunCommands } from './flow-run.js';
import { wholeVerbs } from './whole.js';
import { showGap } from './workspace.js';

export function flowCommands(program: Command): void {
  const flow = program
    .command('flow')
    .description(
      'flows: make, import, list, show, change, check, run, publish, compare, live, expose, export, rename, copy, remove',
    );

  flow
    .command('list [words]')
    .description('all flows, or those with these words in their name, title, description or labels')
    .option('--label <label>', 'only those that carry it')
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
              ? 'No flow fits.'
              : 'No flow yet. Make one with "pindro flow make NAME", or import one with "pindro flow import FILE".',
        );
      }),
    );

  flow
    .command('show <name>')
    .description('one flow: its steps, or with --document the draft as it was written')
    .option('--document', 'the draft as it was written')
    .action(
      withService(async ({ client, print }, [name], { document }) => {
        const one = await client.getFlow({ name: name! });
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

  flow
    .command('make <name>')
    .description('makes a flow with one step, to be drawn in the console or in a file')
    .option('--title <title>', 'for people')
    .action(
      withService(async ({ client, print }, [name], { title }: { title?: string }) => {
        const made = await client.saveDraft({
          name: name!,
          body: {
            fresh: true,
            document: {
              ...{ format: 'pindro/flow@1', name: name!, ...(title && { title }) },
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
          `${pc.green('✓')} ${name} is there. Get its document with "pindro flow export ${name}", change it, and take it in with "pindro flow import FILE".`,
        );
      }),
    );

  flow
    .command('change <name>')
    .description('changes what the draft says of itself')
    .option('--title <title>', 'for people')
    .option('--description <text>', 'what it is for; a model reads it')
    .option('--label <label>', 'all of its labels anew; may be given more than once, "" for none', collectOne, [])
    .action(
      withService(async ({ client, print }, [name], options: Record<string, unknown>) => {
        const { title, description } = options as { title?: string; description?: string };
        const labels = options.label as string[];
        const changed = await client.changeFlow({
          name: name!,
          body: {
            ...(title !== undefined && { title }),
            ...(description !== undefined && { description }),
            ...(labels.length > 0 && { labels: labels.filter(Boolean) }),
          },
        });
        print(changed, `${pc.green('✓')} The draft of ${changed.name} is changed; publish it to make that live.`);
      }),
    );

  wholeVerbs(flow, 'flow', {
    named: '<name>',
    rename: (client, [name], to) => client.renameFlow({ name: name!, body: { to } }),
    copy: (client, [name], to) => client.copyFlow({ name: name!, body: { to } }),
    remove: (client, [name], query) => client.removeFlow({ name: name!, query }),
    uses: (client, [name]) => client.flowUses({ name: name! }),
  });

  flow
    .command('check <file...>')
    .description('lists every mistake of flow documents; needs no service')
    .action(
      withService(async ({ print }, files) => {
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

  flow
    .command('import <file...>')
    .description('makes documents the drafts of the flows they name, in whatever order they come; takes bundles too')
    .option('--publish', 'and publishes them')
    .option(
      '--match <name=name>',
      'for a bundle: what is here in place of what it names; more than once',
      collectText,
      {},
    )
    .option('--overwrite', 'for a bundle: also over flows of the same names')
    .action(
      withService(async (context, files, options: Record<string, unknown>) => {
        const documents = files.map((file) => ({ file, document: readFileSync(file, 'utf8') }));
        const bundles = documents.filter(({ document }) => /^\s*"?format"?:\s*"?pindro\/bundle@1/m.test(document));
        const flows = documents.filter((one) => !bundles.includes(one));
        for (const { document } of bundles) await importBundle(context, document, options);
        await importFlows(context, flows, options.publish === true);
      }),
    );

  flow
    .command('bundle <name> [file]')
    .description(
      'writes a flow with what it needs, to hand on: flows it calls, columns of tables, and by name the rest',
    )
    .action(
      withService(async ({ client, print }, [name, file]) => {
        const { text } = await client.exportBundle({ name: name! });
        if (!file) return print({ name, text }, text.trimEnd());
        writeFileSync(file, text);
        print({ name, file }, `${pc.green('✓')} ${file}: take it in elsewhere with "pindro flow import ${file}"`);
      }),
    );

  flow
    .command('export <name>')
    .description('prints the draft as it was written, comments and all')
    .option('--revision <number>', 'a revision instead of the draft')
    .action(
      withService(async ({ client, print }, [name], { revision }: { revision?: string }) => {
        const { text } = revision
          ? await client.getRevision({ name: name!, revision })
          : await client.getFlow({ name: name! });
        print({ name, text }, text.trimEnd());
      }),
    );

  flow
    .command('compare <name>')
    .description('how two revisions differ, or the live one and the draft')
    .option('--from <revision>', 'a number, live or draft', 'live')
    .option('--to <revision>', 'a number, live or draft', 'draft')
    .action(
      withService(async ({ client, print }, [name], { from, to }: Record<string, string>) => {
        const compared = await client.compareFlow({ name: name!, query: { from: from as 'live', to: to as 'draft' } });
        const colour = { ' ': pc.dim, '+': pc.green, '-': pc.red };
        print(compared, () =>
          compared.changes.length === 0
            ? 'They are the same.'
            : [
                ...compared.changes.map((change) => `• ${change.what}`),
                '',
                ...compared.lines.map(({ sign, text }) => colour[sign](`${sign} ${text}`)),
              ].join('\n'),
        );
      }),
    );

  flow
    .command('live <name> <revision>')
    .description('makes an older revision the live one again')
    .action(
      withService(async ({ client, print }, [name, revision]) => {
        await client.makeLive({ name: name!, revision: revision! });
        print({ name, revision: Number(revision) }, `${pc.green('✓')} ${name}: revision ${revision} is live`);
      }),
    );

  flowRunCommands(flow);

  flow
    .command('publish <name>')
    .description('makes the draft a revision and that one live')
    .option('--note <text>', 'a word on what changed')
    .option('--anyway', 'also where it breaks what uses the flow')
    .action(
      withService(async ({ client, print }, [name], { note, anyway }: { note?: string; anyway?: boolean }) => {
        const body = { note: note ?? '', anyway: anyway === true };
        const { revision, fresh, hindrances } = await client.publishFlow({ name: name!, body });
        const still = hindrances.map((one) => `\n  ${pc.yellow('!')} ${one}`).join('');
        print(
          { revision, fresh, hindrances },
          fresh
            ? `${pc.green('✓')} ${name}: revision ${revision} is live${still}`
            : `${name}: revision ${revision} is live already; the draft has not changed${still}`,
        );
      }),
    );

  flow
    .command('expose <name>')
    .description('publishes a flow, puts it on an endpoint, makes a key and prints settings for a client')
    .option('--endpoint <name>', 'which endpoint; made when it is not there', 'main')
    .option('--tool <name>', 'name of the tool; that of the flow if left out')
    .option('--description <text>', 'what the model reads; that of the flow if left out')
    .option('--caller <id>', 'on whose behalf the key calls', 'first-client')
    .option('--anyway', 'also where publishing it breaks what uses the flow')
    .action(
      withService(async ({ client, print }, [name], options: Record<string, string>) => {
        const exposed = await client.exposeFlow({
          name: name!,
          body: {
            endpoint: options.endpoint!,
            caller: options.caller!,
            anyway: Boolean(options.anyway),
            ...(options.tool && { tool: options.tool }),
            ...(options.description && { description: options.description }),
          },
        });
        print(exposed, () =>
          [
            `${pc.green('✓')} ${name} is published as revision ${exposed.revision}`,
            `${pc.green('✓')} tool ${pc.bold(exposed.tool)} stands on endpoint ${pc.bold(exposed.endpoint.name)}: ${exposed.endpoint.url}`,
            `${pc.green('✓')} key for ${options.caller}, shown this once: ${pc.bold(exposed.key)}`,
            '',
            showSettings(exposed.settings),
          ].join('\n'),
        );
      }),
    );
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
        print(saved, `${pc.green('✓')} ${saved.name}: the draft is saved${warnings.join('')}`);
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
async function importBundle({ client, print }: Context, document: string, options: Record<string, unknown>) {
  const names = options.match as Record<string, string>;
  const match = Object.fromEntries(
    (['tables', 'servers', 'models', 'credentials', 'endpoints'] as const).map((sort) => [sort, names]),
  );
  const taken = await client.importBundle({ body: { document, match, overwrite: options.overwrite === true } });
  print(taken, () =>
    [
      ...taken.flows.map((flow) => `${pc.green('✓')} flow ${flow}: the draft is saved`),
      ...taken.tables.map((table) => `${pc.green('✓')} table ${table} is made`),
      ...(taken.gaps.length > 0
        ? ['Still to be given, or matched with --match NAME=NAME:', ...taken.gaps.map(showGap)]
        : []),
    ].join('\n'),
  );
}

function showMistake(file: string, mistake: Mistake): string {
  const where = mistake.line === undefined ? mistake.at : `${mistake.line}:${mistake.column}`;
  return `${pc.red('✗')} ${file}:${where}  ${mistake.message}${mistake.hint ? `\n    ${pc.dim(mistake.hint)}` : ''}`;
}
