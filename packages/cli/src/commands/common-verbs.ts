import type { Command } from '@commander-js/extra-typings';
import { type Client, ProblemError, type Removal } from '@pindro/contract';
import pc from 'picocolors';
import { withService } from '../context.js';
import { moment } from '../output/table.js';

/** What can be done with a thing whatever it is. Each takes the words that name it, as the command line has them. */
export interface WholeVerbs {
  /** The arguments that name it, such as `<name>` or `<flow> <name>`. */
  named: string;
  /** What is shown of one. */
  show?(client: Client, names: string[]): Promise<{ value: unknown; text: string | (() => string) }>;
  rename?(client: Client, names: string[], to: string): Promise<{ name: string; changed: string[]; url?: string }>;
  copy?(client: Client, names: string[], to: string): Promise<{ name: string }>;
  remove?(client: Client, names: string[], query: { force: string }): Promise<{ removal: Removal }>;
  uses?(client: Client, names: string[]): Promise<{ items: string[] }>;
}

const listed = (items: string[]) => items.map((one) => `\n  ${one}`).join('');

/** Adds the verbs that are alike for all nouns. */
export function wholeVerbs(noun: Command, what: string, { named, show, rename, copy, remove, uses }: WholeVerbs): void {
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
  if (uses)
    noun
      .command(`uses ${named}`)
      .description(`lists what uses the ${what}`)
      .action(
        withService(async ({ client, print }, names) => {
          const found = await uses(client, names);
          print(found, found.items.length > 0 ? found.items.join('\n') : `Nothing uses ${names.at(-1)}.`);
        }),
      );
  if (rename)
    noun
      .command(`rename ${named} <to>`)
      .description('renames it; references follow, and the old name still works')
      .action(
        withService(async ({ client, print }, given) => {
          const names = given.slice(0, -1);
          const done = await rename(client, names, given.at(-1)!);
          const followed = done.changed.length > 0 ? ` Updated references:${listed(done.changed)}` : '';
          print(
            done,
            `${pc.green('✓')} ${names.at(-1)} is now named ${pc.bold(done.name)}${done.url ? `, at ${done.url}` : ''}.${followed}`,
          );
        }),
      );
  if (copy)
    noun
      .command(`copy ${named} <to>`)
      .description('creates a copy')
      .action(
        withService(async ({ client, print }, given) => {
          const done = await copy(client, given.slice(0, -1), given.at(-1)!);
          print(done, `${pc.green('✓')} Created ${done.name}`);
        }),
      );
  if (remove)
    noun
      .command(`remove ${named}`)
      .description('removes it; "pindro undo" restores it for ten minutes')
      .option('--force', 'even if something still uses it')
      .action(
        withService(async ({ client, print }, names, { force }: { force?: boolean }) => {
          const done = await remove(client, names, { force: String(force === true) }).catch(withForceHint);
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
