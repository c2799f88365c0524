import type { Command } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { collectValue } from '../input/pairs.js';
import { facts, moment, table } from '../output/table.js';
import { wholeVerbs } from './whole.js';

export function modelCommands(program: Command): void {
  const model = program
    .command('model')
    .description('model connections: add, list, show, test, change, rename, copy, remove');

  model
    .command('add <name> <address> <model>')
    .description('adds a model connection; it is tested first')
    .option('--dialect <name>', "the model's wire format", 'chat-completions')
    .option('--credential <name>', 'a credential that goes along')
    .option(
      '-s, --set <name=value>',
      'a setting such as temperature=0.2; may be given more than once',
      collectValue,
      {},
    )
    .action(
      withService(async ({ client, print, progress }, [name, base, modelName], options: Record<string, string>) => {
        progress(`asking ${base} …`);
        const added = await client.addModel({
          body: {
            name: name!,
            base: base!,
            model: modelName!,
            dialect: options.dialect!,
            ...(options.credential && { credential: options.credential }),
            settings: options.set as never,
          },
        });
        print(added, `${pc.green('✓')} ${name} answers and is saved`);
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
    .option('-s, --set <name=value>', 'a setting such as temperature=0.2; null takes it away', collectValue, {})
    .option('--untested', 'also when it does not answer now')
    .action(
      withService(async ({ client, print, progress }, [name], options: Record<string, unknown>) => {
        const text = (option: string) => (options[option] === undefined ? undefined : String(options[option]));
        const told = options.set as Record<string, unknown>;
        const settings = { ...(await client.getModel({ name: name! })).settings, ...told };
        const kept = Object.fromEntries(Object.entries(settings).filter(([, value]) => value !== null));
        progress(`asking ${name} …`);
        const now = await client.changeModel({
          name: name!,
          body: {
            untested: options.untested === true,
            ...(text('address') !== undefined && { base: text('address')! }),
            ...(text('model') !== undefined && { model: text('model')! }),
            ...(text('dialect') !== undefined && { dialect: text('dialect')! }),
            ...(text('credential') !== undefined && { credential: text('credential') || null }),
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
        ['credential', one.credential ?? '-'],
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
    .description('asks the model one short question')
    .action(
      withService(async ({ client, print, progress }, [name]) => {
        progress(`asking ${name} …`);
        const result = await client.testModel({ name: name! });
        print(result, `${pc.green('✓')} ${name} answered in ${result.milliseconds} ms: ${result.answer}`);
      }),
    );
}
