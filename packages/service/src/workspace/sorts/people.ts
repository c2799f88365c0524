import { ROLES } from '@pindro/contract';
import { z } from 'zod';
import { type Documents, defineSort, quoted } from './sort.js';

const shape = z.strictObject({
  format: z.literal('pindro/people@1'),
  people: z.array(z.strictObject({ name: z.string(), role: z.enum(ROLES) })),
});

/** Who may use the console, without their passwords. */
export const people = defineSort<z.infer<typeof shape>>({
  at: 'people.yaml',
  adds: true,
  shape,
  write: ({ people }, wanted): Documents =>
    wanted.people
      ? {
          'people.yaml': {
            format: 'pindro/people@1',
            people: people.list().map(({ name, role }) => ({ name, role })),
          },
        }
      : {},
  keep: ({ people: all }, { people }, overwrite) => {
    const wanted = all.filter(({ name }) => overwrite || !people.has(name));
    for (const { name, role } of wanted) people.become(name, role);
    return wanted.length > 0;
  },
  gaps: ({ people: all }, { people }) =>
    all
      .filter(({ name }) => !people.get(name).hasPassword && name !== 'owner')
      .map(({ name }) => ({ what: `${name} signs in with a link`, command: `pindro person link ${quoted(name)}` })),
});
