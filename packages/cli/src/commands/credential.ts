import { type Command, Option } from '@commander-js/extra-typings';
import { CREDENTIAL_KINDS, RESOURCE } from '@pindro/contract';
import pc from 'picocolors';
import { QuietFailure, withService } from '../context.js';
import { readSecret } from '../input/secret.js';
import { facts, moment, table } from '../output/table.js';
import { wholeVerbs } from './common-verbs.js';

export function credentialCommands(program: Command): void {
  const credential = program
    .command('credential')
    .description('credentials: add, list, show, update, test, origins, rename, copy, remove');

  addCommand(credential);
  listCommand(credential);
  updateCommand(credential);
  originsCommand(credential);
  testCommand(credential);

  wholeVerbs(credential, RESOURCE.credential, {
    named: '<name>',
    show: async (client, [name]) => {
      const one = await client.getCredential({ name: name! });
      const text = facts([
        ['credential', one.name],
        ['sent as', one.header ? `${one.kind} ${one.header}` : one.kind],
        ['for', one.account || '-'],
        ['origins', one.origins?.join(', ') ?? 'first use decides'],
        ['since', moment(one.createdAt)],
        ...((one.source
          ? [['read from', 'environment' in one.source ? one.source.environment : one.source.file]]
          : []) as [string, string][]),
        ['last used', one.usedAt === null ? '-' : `${moment(one.usedAt)}, ${one.used}`],
        ...((one.formerUntil ? [['previous secret', `tried until ${moment(one.formerUntil)}`]] : []) as [
          string,
          string,
        ][]),
        ['used by', one.usedBy.join(', ') || '-'],
      ]);
      return { value: one, text };
    },
  });
}

function addCommand(credential: Command): void {
  credential
    .command('add <name>')
    .description('adds a credential; prompts for its secret, or reads it from standard input')
    .addOption(new Option('--kind <kind>', 'how the credential is sent').choices(CREDENTIAL_KINDS).default('bearer'))
    .option('--header <name>', 'for kind header: the name of the header')
    .option('--parameter <name>', 'for kind query: the name of the parameter')
    .option('--account <text>', 'for kind basic: the user name; otherwise its owner', '')
    .option('--origin <addresses...>', 'allowed origins; by default the first one it is used with')
    .option('--from-environment <NAME>', 'reads the value from this environment variable of the service at each use')
    .option('--from-file <path>', 'reads the value from this file on the machine of the service at each use')
    .action(
      withService(async ({ client, print }, [name], { origin, ...options }) => {
        const { fromEnvironment: environment, fromFile: file } = options;
        const source = environment !== undefined ? { environment } : file !== undefined ? { file } : undefined;
        const secret = source ? undefined : await readSecret(`Secret of ${name}: `);
        const added = await client.addCredential({
          body: {
            name,
            kind: options.kind,
            account: options.account,
            ...(source ? { source } : { secret }),
            ...((options.header ?? options.parameter) && { header: options.header ?? options.parameter }),
            ...(origin && { origins: origin }),
          },
        });
        print(
          added,
          source
            ? `${pc.green('✓')} The value of ${name} is read from ${environment ?? file} at each use`
            : `${pc.green('✓')} ${name} is stored encrypted and will not be shown again`,
        );
      }),
    );
}

function listCommand(credential: Command): void {
  credential
    .command('list [words]')
    .description('lists credentials without their secrets, optionally filtered by words')
    .action(
      withService(async ({ client, print }, [search]) => {
        const { items } = await client.listCredentials({ query: search ? { search } : {} });
        print({ items }, () =>
          items.length > 0
            ? table(
                ['CREDENTIAL', 'KIND', 'FOR', 'ORIGINS', 'SINCE', 'USED BY'],
                items.map((one) => [
                  one.name,
                  one.header ? `${one.kind} ${one.header}` : one.kind,
                  one.account || '-',
                  one.origins?.join(', ') ?? 'first use decides',
                  moment(one.createdAt),
                  one.usedBy.join(', ') || '-',
                ]),
              )
            : 'No credentials yet.',
        );
      }),
    );
}

function updateCommand(credential: Command): void {
  credential
    .command('update <name>')
    .description('replaces the secret of a credential, or with an option changes only that setting')
    .addOption(new Option('--kind <kind>', 'how the credential is sent').choices(CREDENTIAL_KINDS))
    .option('--header <name>', 'for kind header: the name of the header')
    .option('--parameter <name>', 'for kind query: the name of the parameter')
    .option('--account <text>', 'for kind basic: the user name; otherwise its owner')
    .option('--secret', 'also prompts for a new secret')
    .option('--overlap <duration>', 'how long the previous secret is still tried if the new one is rejected')
    .action(
      withService(async ({ client, print }, [name], options) => {
        const { kind, account } = options;
        const header = options.header ?? options.parameter;
        const told = {
          ...(kind !== undefined && { kind: kind as 'bearer' }),
          ...(header !== undefined && { header }),
          ...(account !== undefined && { account }),
        };
        const alone = Object.keys(told).length === 0;
        const secret = alone || options.secret ? await readSecret(`New secret of ${name}: `) : undefined;
        const keep = options.overlap === undefined ? {} : { keep: options.overlap };
        const body = { ...told, ...(secret !== undefined && { secret, ...keep }) };
        const changed = await client.updateCredential({ name, body });
        print(changed, `${pc.green('✓')} ${name} ${alone ? 'has a new secret' : 'is updated'}`);
      }),
    );
}

function originsCommand(credential: Command): void {
  credential
    .command('origins <name> [addresses...]')
    .description('sets the allowed origins of a credential; without an address, the next one it is used with')
    .action(
      withService(async ({ client, print }, [name, origins]) => {
        const changed = await client.setOrigins({ name, body: { origins } });
        print(
          changed,
          `${pc.green('✓')} ${name} may be sent to ${changed.origins?.join(', ') ?? 'the next origin it is used with'}`,
        );
      }),
    );
}

function testCommand(credential: Command): void {
  credential
    .command('test <name>')
    .description('tests a credential with every tool server that uses it')
    .action(
      withService(async ({ client, print, progress }, [name]) => {
        progress(`testing ${name} …`);
        const { items } = await client.testCredential({ name });
        print(
          { items },
          () =>
            items.map(({ server, ok, says }) => `${ok ? pc.green('✓') : pc.red('✗')} ${server}: ${says}`).join('\n') ||
            `No tool server uses ${name}.`,
        );
        if (items.some(({ ok }) => !ok)) throw new QuietFailure();
      }),
    );
}
