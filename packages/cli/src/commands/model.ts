import type { Command } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { collectOne, collectValue } from '../input/pairs.js';
import { facts, moment, table } from '../output/table.js';
import { wholeVerbs } from './whole.js';

const SETTINGS = 'temperature, max_tokens, effort, stop, stream, context, price, patience, headers.NAME, body.FIELD';

export function modelCommands(program: Command): void {
  const model = program
    .command('model')
    .description('model connections: add, list, show, test, offers, change, rename, copy, remove');

  model
    .command('add <name> <address> <model>')
    .description('adds a model connection; it is tested first')
    .option('--dialect <name>', 'the wire format: chat-completions, messages or generate-content', 'chat-completions')
    .option('--credential <name>', 'a credential that goes along')
    .option(
      '--spare <credential>',
      'a further one, which takes turns with it; may be given more than once',
      collectOne,
      [],
    )
    .option('--fallback <connection>', 'which connection is asked where this one cannot answer')
    .option(
      '-s, --set <name=value>',
      `a setting, such as temperature=0.2 or price.input=3; may be given more than once: ${SETTINGS}`,
      collectValue,
      {},
    )
    .option('--untested', 'also when it does not answer now')
    .action(
      withService(async ({ client, print, progress }, [name, base, modelName], options: Record<string, unknown>) => {
        progress(`asking ${base} …`);
        const added = await client.addModel({
          body: {
            name: name!,
            base: base!,
            model: modelName!,
            dialect: String(options.dialect),
            ...(options.credential !== undefined && { credential: String(options.credential) }),
            keys: options.spare as string[],
            ...(options.fallback !== undefined && { fallback: String(options.fallback) }),
            settings: nested(options.set as Record<string, unknown>) as never,
            untested: options.untested === true,
          },
        });
        print(
          added,
          `${pc.green('✓')} ${name} ${options.untested === true ? 'is saved untested' : 'answers and is saved'}`,
        );
      }),
    );

  model
    .command('list [words]')
    .description('all model connections, or those with these words in their name, model or address')
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
            : 'No model connection yet. Add one with "pindro model add NAME ADDRESS MODEL".',
        );
      }),
    );

  model
    .command('change <name>')
    .description('changes a model connection; kept once it answers')
    .option('--address <url>', 'where it answers')
    .option('--model <name>', 'which model')
    .option('--dialect <name>', "the model's wire format")
    .option('--credential <name>', 'the credential that goes along; "" for none')
    .option('--spare <credential>', 'further ones, which take turns with it; "" for none', collectOne)
    .option('--fallback <connection>', 'which connection is asked where this one cannot answer; "" for none')
    .option(
      '-s, --set <name=value>',
      `a setting such as temperature=0.2; null takes it away: ${SETTINGS}`,
      collectValue,
      {},
    )
    .option('--untested', 'also when it does not answer now')
    .action(
      withService(async ({ client, print, progress }, [name], options: Record<string, unknown>) => {
        const text = (option: string) => (options[option] === undefined ? undefined : String(options[option]));
        const told = options.set as Record<string, unknown>;
        const kept = nested(told, (await client.getModel({ name: name! })).settings);
        const keys = options.spare as string[] | undefined;
        progress(`asking ${name} …`);
        const now = await client.changeModel({
          name: name!,
          body: {
            untested: options.untested === true,
            ...(text('address') !== undefined && { base: text('address')! }),
            ...(text('model') !== undefined && { model: text('model')! }),
            ...(text('dialect') !== undefined && { dialect: text('dialect')! }),
            ...(text('credential') !== undefined && { credential: text('credential') || null }),
            ...(keys && { keys: keys.filter((key) => key !== '') }),
            ...(text('fallback') !== undefined && { fallback: text('fallback') || null }),
            ...(Object.keys(told).length > 0 && { settings: kept as never }),
          },
        });
        print(now, `${pc.green('✓')} ${now.name} is changed`);
      }),
    );

  wholeVerbs(model, 'model connection', {
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
    rename: (client, [name], to) => client.renameModel({ name: name!, body: { to } }),
    copy: (client, [name], to) => client.copyModel({ name: name!, body: { to } }),
    remove: (client, [name], query) => client.removeModel({ name: name!, query }),
    uses: (client, [name]) => client.modelUses({ name: name! }),
  });

  model
    .command('test <name>')
    .description('asks the model one short question, and has it call a tool')
    .action(
      withService(async ({ client, print, progress }, [name]) => {
        progress(`asking ${name} …`);
        const result = await client.testModel({ name: name! });
        const { milliseconds, answer, tools } = result;
        print(result, () =>
          [
            `${pc.green('✓')} ${name} answered in ${milliseconds} ms: ${answer}`,
            tools.works ? `${pc.green('✓')} ${tools.says}` : `${pc.yellow('!')} Tools: ${tools.says}`,
          ].join('\n'),
        );
      }),
    );

  model
    .command('offers <name>')
    .description('the names of the models that the server of a connection offers')
    .action(
      withService(async ({ client, print, progress }, [name]) => {
        progress(`asking ${name} …`);
        const { items } = await client.modelOffers({ name: name! });
        print({ items }, () => (items.length > 0 ? items.join('\n') : 'It offers no model.'));
      }),
    );
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
