import { type Command, Option } from '@commander-js/extra-typings';
import { fieldsSchemaOf, PLAIN, type PlainDescriptor, plainVerbsOf } from '@pindro/contract';
import { isObject, type JsonObject } from '@pindro/core/browser';
import pc from 'picocolors';
import { withService } from '../context.js';
import { readTexts } from '../input/pairs.js';
import { brief, facts, moment, table } from '../output/table.js';
import { wholeVerbs } from './common-verbs.js';

/** Adds a noun for each resource that is a name with fields: its commands and options derive from the fields. */
export function plainCommands(program: Command): void {
  for (const resource of PLAIN) if (resource.create) plainCommand(program, resource, resource.create);
}

function plainCommand(program: Command, resource: PlainDescriptor, create: string): void {
  const { name: noun, plural, words } = resource;
  const schema = fieldsSchemaOf(resource);
  const fields = Object.entries(isObject(schema.properties) ? schema.properties : {});
  const titles = fields.map(([field, property]) => [field, titleOf(field, property as JsonObject)] as const);
  const command = program.command(noun).description(`saved ${plural}: list, show, ${create}, rename, copy, remove`);

  command
    .command('list [words]')
    .description(`lists ${plural}, optionally filtered by words in their name`)
    .action(
      withService(async ({ client, print }, [search]) => {
        const { items } = await plainVerbsOf(client, resource).list(search);
        print({ items }, () =>
          items.length > 0
            ? table(
                [noun.toUpperCase(), ...titles.map(([, title]) => title.toUpperCase()), 'SAVED BY', 'SAVED'],
                items.map((one) => [
                  one.name,
                  ...titles.map(([field]) => brief(one[field] ?? '-', 60)),
                  one.by,
                  moment(one.at),
                ]),
              )
            : `No ${search ? `matching ${plural}` : `${plural} yet. Save one with "pindro ${noun} ${create} NAME"`}.`,
        );
      }),
    );

  const save = command.command(`${create} <name>`).description(`saves a ${words}, or replaces the one of that name`);
  for (const [field, property] of fields as [string, JsonObject][]) {
    const option = new Option(
      `--${field.replaceAll(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`)} <value>`,
      titleOf(field, property).toLowerCase(),
    );
    if (Array.isArray(property.enum)) option.choices(property.enum.map(String));
    if (property.default !== undefined) option.default(String(property.default));
    save.addOption(option);
  }
  save.action(
    withService(async ({ client, print }, [name], options) => {
      // Options of the whole program are among them.
      const given = Object.entries(options as Record<string, string>).filter(([option]) =>
        fields.some(([field]) => field === option),
      );
      const body = readTexts(Object.fromEntries(given), schema);
      const saved = await plainVerbsOf(client, resource).save(name, body);
      print(
        saved,
        `${pc.green('✓')} Saved ${saved.name}: ${titles.map(([field, title]) => `${title.toLowerCase()} ${saved[field]}`).join(', ')}`,
      );
    }),
  );

  wholeVerbs(command, resource, {
    named: '<name>',
    show: async (client, [name = '']) => {
      const one = await plainVerbsOf(client, resource).get(name);
      const text = facts([
        [noun, one.name],
        ...titles.map(([field, title]): [string, string] => [title.toLowerCase(), brief(one[field] ?? '-', 400)]),
        ['saved', `${moment(one.at)} by ${one.by}`],
      ]);
      return { value: one, text };
    },
  });
}

const titleOf = (field: string, property: JsonObject): string =>
  typeof property.title === 'string' ? property.title : field.replaceAll('_', ' ');
