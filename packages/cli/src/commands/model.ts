import type { Command } from '@commander-js/extra-typings';
import { RESOURCE } from '@pindro/contract';
import pc from 'picocolors';
import { withService } from '../context.js';
import { collectOne, collectValue } from '../input/pairs.js';
import { facts, moment, table } from '../output/table.js';
import { wholeVerbs } from './common-verbs.js';

const SETTINGS = 'temperature, max_tokens, effort, stop, stream, context, price, patience, headers.NAME, body.FIELD';

export function modelCommands(program: Command): void {
  const model = program
    .command('model')
    .description('model connections: add, list, show, test, available, update, rename, copy, remove');

  addCommand(model);
  listCommand(model);
  updateCommand(model);

  wholeVerbs(model, RESOURCE.model, {
    named: '<name>',
    show: async (client, [name]) => {
      const one = await client.getModel({ name: name! });
      const { items } = await client.modelUses({ name: name! });
      const settings = Object.entries(one.settings).map(([key, value]) => `${key}=${JSON.stringify(value)}`);
      const text = facts([
        ['connection', one.name],
        ['model', `${one.model}  ${pc.dim(one.dialect)}`],
        ['address', one.base],
        ['credential', [one.credential ?? '-', ...one.keys].join(', ')],
        ['fallback', one.fallback ?? '-'],
        ['settings', settings.join(' ') || '-'],
        ['tested', one.trouble ? pc.red(one.trouble) : moment(one.testedAt)],
        ['used by', items.join(', ') || '-'],
      ]);
      return { value: one, text };
    },
  });

  testCommand(model);
  availableCommand(model);
}

/** Settings of which a dot leads further in; null takes one away. */
function nested(told: Record<string, unknown>, kept: Record<string, unknown> = {}): Record<string, unknown> {
  const out: Record<string, unknown> = structuredClone(kept);
  for (const [path, value] of Object.entries(told)) {
    const parts = path.split('.');
    const last = parts.pop()!;
    let at = out;
    for (const part of parts) at = (at[part] ??= {}) as Record<string, unknown>;
    if (value === null) delete at[last];
    else at[last] = value;
  }
  return out;
}

function addCommand(model: Command): void {
  model
    .command('add <name> <address> <model>')
    .description('adds a model connection after testing it')
    .option('--dialect <name>', 'the wire format: chat-completions, messages or generate-content', 'chat-completions')
    .option('--credential <name>', 'credential to send')
    .option('--extra-credential <credential>', 'an additional credential used in rotation; repeatable', collectOne, [])
    .option('--fallback <connection>', 'connection to use when this connection fails')
    .option(
      '-s, --set <name=value>',
      `a setting, such as temperature=0.2 or price.input=3; repeatable: ${SETTINGS}`,
      collectValue,
      {},
    )
    .option('--skip-test', 'even if it does not respond')
    .action(
      withService(async ({ client, print, progress }, [name, base, modelName], options) => {
        progress(`asking ${base} …`);
        const added = await client.addModel({
          body: {
            name,
            base,
            model: modelName,
            dialect: String(options.dialect),
            ...(options.credential !== undefined && { credential: String(options.credential) }),
            keys: options.extraCredential as string[],
            ...(options.fallback !== undefined && { fallback: String(options.fallback) }),
            settings: nested(options.set as Record<string, unknown>),
            skipTest: options.skipTest === true,
          },
        });
        print(
          added,
          `${pc.green('✓')} ${name} ${options.skipTest === true ? 'is saved without a test' : 'responds and is saved'}`,
        );
      }),
    );
}

function listCommand(model: Command): void {
  model
    .command('list [words]')
    .description('lists model connections, optionally filtered by words in their name, model or address')
    .action(
      withService(async ({ client, print }, [search]) => {
        const { items } = await client.listModels({ query: search ? { search } : {} });
        print({ items }, () =>
          items.length > 0
            ? table(
                ['CONNECTION', 'MODEL', 'DIALECT', 'TESTED', 'ADDRESS'],
                items.map((one) => [
                  one.name,
                  one.model,
                  one.dialect,
                  one.trouble ? pc.red(one.trouble) : moment(one.testedAt),
                  one.base,
                ]),
              )
            : 'No model connections yet. Add one with "pindro model add NAME ADDRESS MODEL".',
        );
      }),
    );
}

function updateCommand(model: Command): void {
  model
    .command('update <name>')
    .description('changes a model connection; saved once it responds')
    .option('--address <url>', 'its address')
    .option('--model <name>', 'name of the model')
    .option('--dialect <name>', "the model's wire format")
    .option('--credential <name>', 'credential to send; "" for none')
    .option('--extra-credential <credential>', 'additional credentials used in rotation; "" for none', collectOne)
    .option('--fallback <connection>', 'connection to use when this connection fails; "" for none')
    .option(
      '-s, --set <name=value>',
      `a setting such as temperature=0.2; null removes it: ${SETTINGS}`,
      collectValue,
      {},
    )
    .option('--skip-test', 'even if it does not respond')
    .action(
      withService(async ({ client, print, progress }, [name], options) => {
        const text = (option: 'address' | 'dialect' | 'credential' | 'model' | 'fallback') =>
          options[option] === undefined ? undefined : String(options[option]);
        const told = options.set as Record<string, unknown>;
        const kept = nested(told, (await client.getModel({ name })).settings);
        const keys = options.extraCredential as string[] | undefined;
        progress(`asking ${name} …`);
        const now = await client.updateModel({
          name,
          body: {
            skipTest: options.skipTest === true,
            ...(text('address') !== undefined && { base: text('address')! }),
            ...(text('model') !== undefined && { model: text('model')! }),
            ...(text('dialect') !== undefined && { dialect: text('dialect')! }),
            ...(text('credential') !== undefined && { credential: text('credential') || null }),
            ...(keys && { keys: keys.filter((key) => key !== '') }),
            ...(text('fallback') !== undefined && { fallback: text('fallback') || null }),
            ...(Object.keys(told).length > 0 && { settings: kept }),
          },
        });
        print(now, `${pc.green('✓')} Updated ${now.name}`);
      }),
    );
}

function testCommand(model: Command): void {
  model
    .command('test <name>')
    .description('sends the model one short message and has it call a tool')
    .action(
      withService(async ({ client, print, progress }, [name]) => {
        progress(`asking ${name} …`);
        const result = await client.testModel({ name });
        const { milliseconds, answer, tools } = result;
        print(result, () =>
          [
            `${pc.green('✓')} ${name} answered in ${milliseconds} ms: ${answer}`,
            tools.works ? `${pc.green('✓')} ${tools.says}` : `${pc.yellow('!')} Tools: ${tools.says}`,
          ].join('\n'),
        );
      }),
    );
}

function availableCommand(model: Command): void {
  model
    .command('available <name>')
    .description('lists the models available on the server of a connection')
    .action(
      withService(async ({ client, print, progress }, [name]) => {
        progress(`asking ${name} …`);
        const { items } = await client.availableModels({ name });
        print({ items }, () => (items.length > 0 ? items.join('\n') : 'The server lists no models.'));
      }),
    );
}
