import { type Command, Option } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { readSecret } from '../input/secret.js';
import { moment, table } from '../output/table.js';

export function credentialCommands(program: Command): void {
  const credential = program.command('credential').description('credentials: add, list, change, origins, remove');

  credential
    .command('add <name>')
    .description('adds a credential; its secret is asked for, or read from standard input')
    .addOption(
      new Option('--kind <kind>', 'how it goes along').choices(['bearer', 'header', 'basic']).default('bearer'),
    )
    .option('--header <name>', 'for kind header: the name of the header')
    .option('--account <text>', 'for kind basic: the user name; else for whom it is', '')
    .option('--origin <addresses...>', 'where it may go; where it is first used if left out')
    .action(
      withService(async ({ client, print }, [name], { origin, ...options }: Record<string, string>) => {
        const secret = await readSecret(`Secret of ${name}: `);
        const added = await client.addCredential({
          body: {
            name: name!,
            kind: options.kind as 'bearer',
            account: options.account!,
            secret,
            ...(options.header && { header: options.header }),
            ...(origin && { origins: [origin].flat() }),
          },
        });
        print(added, `${pc.green('✓')} ${name} is sealed and will not be shown again`);
      }),
    );

  credential
    .command('list')
    .description('all credentials, without their secrets')
    .action(
      withService(async ({ client, print }) => {
        const { items } = await client.listCredentials();
        print({ items }, () =>
          items.length > 0
            ? table(
                ['CREDENTIAL', 'KIND', 'FOR', 'GOES TO', 'SINCE', 'USED BY'],
                items.map((one) => [
                  one.name,
                  one.header ? `${one.kind} ${one.header}` : one.kind,
                  one.account || '-',
                  one.origins?.join(', ') ?? 'where it is first used',
                  moment(one.createdAt),
                  one.usedBy.join(', ') || '-',
                ]),
              )
            : 'No credential yet.',
        );
      }),
    );

  credential
    .command('change <name>')
    .description('gives a credential a new secret')
    .action(
      withService(async ({ client, print }, [name]) => {
        const changed = await client.changeSecret({
          name: name!,
          body: { secret: await readSecret(`New secret of ${name}: `) },
        });
        print(changed, `${pc.green('✓')} ${name} has a new secret`);
      }),
    );

  credential
    .command('origins <name> [addresses...]')
    .description('says where a credential may go; with no address, where it is next used')
    .action(
      withService(async ({ client, print }, [name, ...origins]) => {
        const changed = await client.setOrigins({ name: name!, body: { origins } });
        print(changed, `${pc.green('✓')} ${name} goes to ${changed.origins?.join(', ') ?? 'where it is next used'}`);
      }),
    );

  credential
    .command('remove <name>')
    .description('removes a credential that nothing uses')
    .action(
      withService(async ({ client, print }, [name]) => {
        await client.removeCredential({ name: name! });
        print({ done: true }, `${pc.green('✓')} ${name} is removed`);
      }),
    );
}
