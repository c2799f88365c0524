import type { Command } from '@commander-js/extra-typings';
import {
  type Client,
  ProblemError,
  type Removal,
  type ResourceDescriptor,
  type ResourceVerbs,
  type Verb,
  verbsOf,
} from '@pindro/contract';
import pc from 'picocolors';
import { withService } from '../context.js';
import { moment } from '../output/table.js';

type Names = readonly string[];
/** Verbs that the command line does in its own way, by the values that name the thing. */
type OwnVerbs = {
  [V in keyof ResourceVerbs]?: (
    client: Client,
    ...args: Parameters<NonNullable<ResourceVerbs[V]>>
  ) => Promise<Awaited<ReturnType<NonNullable<ResourceVerbs[V]>>> & { url?: string }>;
};
export interface WholeVerbs extends OwnVerbs {
  /** The arguments that name it, such as `<name>` or `<flow> <name>`. */
  named: string;
  /** What is shown of one. */
  show?(client: Client, names: Names): Promise<{ value: unknown; text: string | (() => string) }>;
}

const listed = (items: string[]) => items.map((one) => `\n  ${one}`).join('');

/**
 * Adds the verbs that are common to all resources: those of the descriptor, and those that the noun does in its own way.
 * @param noun the command that they are added to
 */
export function wholeVerbs(noun: Command, resource: ResourceDescriptor, { named, show, ...own }: WholeVerbs): void {
  const what = resource.words;
  const has = (verb: Verb) => own[verb] !== undefined || (resource.verbs[verb] && !resource.own?.includes(verb));
  const of = (client: Client): Required<ResourceVerbs> => {
    const mine = Object.entries(own).map(([verb, act]) => [
      verb,
      (...args: unknown[]) => act(client, ...(args as [Names, never])),
    ]);
    return { ...verbsOf(client, resource), ...Object.fromEntries(mine) } as Required<ResourceVerbs>;
  };
  if (show)
    noun
      .command(`show ${named}`)
      .description(`one ${what}`)
      .action(
        withService(async ({ client, print }, names) => {
          const { value, text } = await show(client, names);
          print(value, text);
        }),
      );
  if (has('uses'))
    noun
      .command(`uses ${named}`)
      .description(`lists what uses the ${what}`)
      .action(
        withService(async ({ client, print }, names) => {
          const found = await of(client).uses(names);
          print(found, found.items.length > 0 ? found.items.join('\n') : `Nothing uses ${names.at(-1)}.`);
        }),
      );
  if (has('rename'))
    noun
      .command(`rename ${named} <to>`)
      .description('renames it; references follow, and the old name still works')
      .action(
        withService(async ({ client, print }, given) => {
          const names = given.slice(0, -1);
          const done: { name: string; changed: string[]; url?: string } = await of(client).rename(names, given.at(-1)!);
          const followed = done.changed.length > 0 ? ` Updated references:${listed(done.changed)}` : '';
          print(
            done,
            `${pc.green('✓')} ${names.at(-1)} is now named ${pc.bold(done.name)}${done.url ? `, at ${done.url}` : ''}.${followed}`,
          );
        }),
      );
  if (has('copy'))
    noun
      .command(`copy ${named} <to>`)
      .description('creates a copy')
      .action(
        withService(async ({ client, print }, given) => {
          const done = await of(client).copy(given.slice(0, -1), given.at(-1)!);
          print(done, `${pc.green('✓')} Created ${done.name}`);
        }),
      );
  if (has('remove'))
    noun
      .command(`remove ${named}`)
      .description('removes it; "pindro undo" restores it for ten minutes')
      .option('--force', 'even if something still uses it')
      .action(
        withService(async ({ client, print }, names, { force }: { force?: boolean }) => {
          const done = await of(client)
            .remove(names, force === true)
            .catch(withForceHint);
          print(done, removedLine(done.removal));
        }),
      );
}

export const removedLine = ({ name, id, until }: Removal) =>
  `${pc.green('✓')} Removed ${name}. Until ${moment(until).slice(11, 16)} "pindro undo ${id}" restores it.`;

/** Describes at the command line how to force the removal of something in use. */
function withForceHint(error: unknown): never {
  if (error instanceof ProblemError && error.problem.code === 'in_use')
    error.problem.hint = 'Remove it there first, or add --force.';
  throw error;
}
