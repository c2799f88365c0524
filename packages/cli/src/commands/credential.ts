import { CREDENTIAL_KINDS } from '@pindro/contract';
import { type Command, Option } from 'commander';
import pc from 'picocolors';
import { QuietFailure, withService } from '../context.js';
import { readSecret } from '../input/secret.js';
import { facts, moment, table } from '../output/table.js';
import { wholeVerbs } from './whole.js';

export function credentialCommands(program: Command): void {
  const credential = program
    .command('credential')
    .description('credentials: add, list, show, change, test, origins, rename, copy, remove');

  credential
    .command('add <name>')
    .description('adds a credential; its secret is asked for, or read from standard input')
    .addOption(new Option('--kind <kind>', 'how it goes along').choices(CREDENTIAL_KINDS).default('bearer'))
    .option('--header <name>', 'for kind header: the name of the header')
    .option('--parameter <name>', 'for kind query: the name of the parameter')
    .option('--account <text>', 'for kind basic: the user name; else for whom it is', '')
    .option('--origin <addresses...>', 'where it may go; where it is first used if left out')
    .option('--from-environment <NAME>', 'its value is read in this variable of the service whenever it is used')
    .option('--from-file <path>', 'its value is read in this file on the machine of the service whenever it is used')
    .action(
      withService(async ({ client, print }, [name], { origin, ...options }: Record<string, string>) => {
        const { fromEnvironment: environment, fromFile: file } = options;
        const source = environment !== undefined ? { environment } : file !== undefined ? { file } : undefined;
        const secret = source ? undefined : await readSecret(`Secret of ${name}: `);
        const added = await client.addCredential({
          body: {
            name: name!,
            kind: options.kind as 'bearer',
            account: options.account!,
            ...(source ? { source } : { secret }),
            ...((options.header ?? options.parameter) && { header: options.header ?? options.parameter }),
            ...(origin && { origins: [origin].flat() }),
          },
        });
        print(
          added,
          source
            ? `${pc.green('✓')} ${name} is read in ${environment ?? file} whenever it is used`
            : `${pc.green('✓')} ${name} is sealed and will not be shown again`,
        );
      }),
    );

  credential
    .command('list [words]')
    .description('all credentials without their secrets, or those with these words in them')
    .action(
      withService(async ({ client, print }, [search]) => {
        const { items } = await client.listCredentials({ query: search ? { search } : {} });
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
    .description('gives a credential a new secret, or with an option changes just that')
    .addOption(new Option('--kind <kind>', 'how it goes along').choices(CREDENTIAL_KINDS))
    .option('--header <name>', 'for kind header: the name of the header')
    .option('--parameter <name>', 'for kind query: the name of the parameter')
    .option('--account <text>', 'for kind basic: the user name; else for whom it is')
    .option('--secret', 'asks for a new secret as well')
    .option('--keep <duration>', 'how long the secret of before still goes along where the new one is refused')
    .action(
      withService(async ({ client, print }, [name], options: Record<string, string>) => {
        const { kind, account } = options;
        const header = options.header ?? options.parameter;
        const told = {
          ...(kind !== undefined && { kind: kind as 'bearer' }),
          ...(header !== undefined && { header }),
          ...(account !== undefined && { account }),
        };
        const alone = Object.keys(told).length === 0;
        const secret = alone || options.secret ? await readSecret(`New secret of ${name}: `) : undefined;
        const keep = options.keep === undefined ? {} : { keep: options.keep };
        const body = { ...told, ...(secret !== undefined && { secret, ...keep }) };
        const changed = await client.changeCredential({ name: name!, body });
        print(changed, `${pc.green('✓')} ${name} ${alone ? 'has a new secret' : 'is changed'}`);
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
    .command('test <name>')
    .description('asks every tool server that it goes along with, whether it lets us in')
    .action(
      withService(async ({ client, print, progress }, [name]) => {
        progress(`asking with ${name} …`);
        const { items } = await client.testCredential({ name: name! });
        print(
          { items },
          () =>
            items.map(({ server, ok, says }) => `${ok ? pc.green('✓') : pc.red('✗')} ${server}: ${says}`).join('\n') ||
            `No tool server is called with ${name}.`,
        );
        if (items.some(({ ok }) => !ok)) throw new QuietFailure();
      }),
    );

  wholeVerbs(credential, 'credential', {
    named: '<name>',
    show: async (client, [name]) => {
      const one = await client.getCredential({ name: name! });
      const text = facts([
        ['credential', one.name],
        ['goes along as', one.header ? `${one.kind} ${one.header}` : one.kind],
        ['for', one.account || '-'],
        ['goes to', one.origins?.join(', ') ?? 'where it is first used'],
        ['since', moment(one.createdAt)],
        ...((one.source
          ? [['read in', 'environment' in one.source ? one.source.environment : one.source.file]]
          : []) as [string, string][]),
        ['last used', one.usedAt === null ? '-' : `${moment(one.usedAt)}, ${one.used}`],
        ...((one.formerUntil ? [['the one before', `goes along until ${moment(one.formerUntil)}`]] : []) as [
          string,
          string,
        ][]),
        ['used by', one.usedBy.join(', ') || '-'],
      ]);
      return { value: one, text };
    },
    rename: (client, [name], to) => client.renameCredential({ name: name!, body: { to } }),
    copy: (client, [name], to) => client.copyCredential({ name: name!, body: { to } }),
    remove: (client, [name], query) => client.removeCredential({ name: name!, query }),
    uses: (client, [name]) => client.credentialUses({ name: name! }),
  });
}
