import { z } from 'zod';
import { PindroError } from '../errors/errors.js';
import { isObject } from '../json/json.js';
import { defineKind } from './kind.js';

const BRANCH = /^[a-z][a-z0-9_]*$/;

/** A condition is an expression; a plain text would be neither true nor false. */
const condition = z.union([
  z.string().refine((text) => text.includes('${'), 'must be true or false; write it as an expression: ${ … }'),
  z.boolean(),
]);

const config = z.strictObject({
  when: z
    .record(z.string().regex(BRANCH, 'must be lower-case letters, digits and _'), condition)
    .refine((branches) => Object.keys(branches).length > 0, 'needs at least one branch')
    .refine(
      (branches) => !('error' in branches || 'otherwise' in branches),
      'may not name a branch "error" or "otherwise"; these names are reserved',
    )
    .meta({
      title: 'Branches',
      description: 'Branches and their conditions, evaluated in order; if none is true, "otherwise"',
      form: 'branches',
    }),
});

export const choose = defineKind<z.infer<typeof config>>({
  name: 'choose',
  title: 'Choose',
  about: 'Takes the first branch whose condition is true, otherwise the branch "otherwise".',
  config,
  raw: ['when'],
  conditions: ['when'],
  repeatable: () => true,
  branches: (raw) => [...Object.keys(isObject(raw.when) ? raw.when : {}), 'otherwise'].map((name) => ({ name })),
  sentence: (raw) => {
    const branches = Object.entries(isObject(raw.when) ? raw.when : {});
    return branches
      .flatMap(([name, condition], index) => [`${index === 0 ? 'Go' : '; go'} ${name} if `, { value: condition }])
      .concat('; otherwise the branch otherwise');
  },
  output: () => ({ branch: 'string' }),
  references: () => ({}),
  run: async ({ when }, context) => {
    for (const [branch, condition] of Object.entries(when)) {
      const met = context.fill(condition, ['when', branch]);
      if (typeof met !== 'boolean') {
        throw new PindroError(
          'condition_not_boolean',
          { branch, got: JSON.stringify(met) ?? 'nothing' },
          { at: `/when/${branch}` },
        );
      }
      if (met) return { output: { branch }, branch };
    }
    return { output: { branch: 'otherwise' }, branch: 'otherwise' };
  },
});
