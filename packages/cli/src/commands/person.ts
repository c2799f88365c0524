import { Argument, type Command, Option } from '@commander-js/extra-typings';
import { RESOURCE, ROLE_WORDS, ROLES, type Role } from '@pindro/contract';
import pc from 'picocolors';
import { withService } from '../context.js';
import { readSecret } from '../input/secret.js';
import { facts, moment, table } from '../output/table.js';
import { wholeVerbs } from './common-verbs.js';

const roles = ROLES.map((role) => `${role} ${ROLE_WORDS[role]}`).join('; ');
const roleOption = () => new Option('--role <role>', roles).choices([...ROLES]);

export function personCommands(program: Command): void {
  const person = program
    .command('person')
    .description(
      'people with access to the console, and their roles: add, list, show, role, password, link, rename, remove',
    );

  listCommand(person);
  addCommand(person);
  roleCommand(person);
  passwordCommand(person);
  linkCommand(person);

  wholeVerbs(person, RESOURCE.person, {
    named: '<name>',
    show: async (client, [name]) => {
      const one = await client.getPerson({ name: name! });
      const text = facts([
        ['person', one.name],
        ['role', `${one.role}: ${ROLE_WORDS[one.role]}`],
        ['signs in by', one.hasPassword ? 'password or link' : 'link'],
        ['since', moment(one.createdAt)],
      ]);
      return { value: one, text };
    },
  });
}

function listCommand(person: Command): void {
  person
    .command('list [words]')
    .description('lists people, optionally filtered by words in their name or role')
    .action(
      withService(async ({ client, print }, [search]) => {
        const { items } = await client.listPeople({ query: search ? { search } : {} });
        print({ items }, () =>
          table(
            ['NAME', 'ROLE', 'SIGN-IN', 'SINCE'],
            items.map((one) => [
              one.name,
              one.role,
              one.hasPassword ? 'password or link' : 'link',
              moment(one.createdAt),
            ]),
          ),
        );
      }),
    );
}

function addCommand(person: Command): void {
  person
    .command('add <name>')
    .description('adds a person and prints a one-time sign-in link')
    .addOption(roleOption().default('viewer'))
    .action(
      withService(async ({ client, print }, [name], options: { role?: string }) => {
        const added = await client.addPerson({ body: { name, role: (options.role ?? 'viewer') as Role } });
        print(
          added,
          `${pc.green('✓')} ${added.person.name} is ${added.person.role}: ${ROLE_WORDS[added.person.role]}\n${added.url}\n${pc.dim('The link works once, within an hour.')}`,
        );
      }),
    );
}

function roleCommand(person: Command): void {
  person
    .command('role <name>')
    .description(roles)
    .addArgument(new Argument('<role>').choices([...ROLES]))
    .action(
      withService(async ({ client, print }, [name, role]) => {
        const changed = await client.updatePerson({ name, body: { role: role as Role } });
        print(changed, `${pc.green('✓')} ${changed.name} is ${changed.role}: ${ROLE_WORDS[changed.role]}`);
      }),
    );
}

function passwordCommand(person: Command): void {
  person
    .command('password <name>')
    .description('sets a new password, from a prompt or a pipe; ends their sessions')
    .action(
      withService(async ({ client, print }, [name]) => {
        const password = await readSecret(`New password for ${name}: `);
        const changed = await client.updatePerson({ name, body: { password } });
        print(changed, `${pc.green('✓')} Set the password of ${changed.name}`);
      }),
    );
}

function linkCommand(person: Command): void {
  person
    .command('link <name>')
    .description('creates a one-time sign-in link')
    .action(
      withService(async ({ client, print }, [name]) => {
        const { url } = await client.createSignInLink({ body: { person: name } });
        print({ url }, `${url}\n${pc.dim('The link works once, within an hour.')}`);
      }),
    );
}
