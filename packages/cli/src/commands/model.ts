import type { Command } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { moment, table } from '../output/table.js';

export function modelCommands(program: Command): void {
  const model = program.command('model').description('model connections: add, list, test');

  model
    .command('add <name> <address> <model>')
    .description('adds a model connection; it is tested first')
    .option('--dialect <name>', "the model's wire format", 'chat-completions')
    .option('--credential <name>', 'a credential that goes along')
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
          },
        });
        print(added, `${pc.green('✓')} ${name} answers and is saved`);
      }),
    );

  model
    .command('list')
    .description('all model connections')
    .action(
      withService(async ({ client, print }) => {
        const { items } = await client.listModels();
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
