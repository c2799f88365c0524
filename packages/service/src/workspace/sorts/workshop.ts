import { z } from 'zod';
import { type Documents, defineSort } from './sort.js';

const shape = z.strictObject({
  format: z.literal('pindro/workshop@1'),
  on: z.boolean(),
  flows: z.array(z.string()).describe('Flows open to assistants'),
});

export const workshop = defineSort<z.infer<typeof shape>>({
  at: 'workshop.yaml',
  shape,
  write: ({ workshopParts: { workshop } }): Documents => {
    const flows = workshop.open();
    if (!workshop.isOn() && flows.length === 0) return {};
    return { 'workshop.yaml': { format: 'pindro/workshop@1', on: workshop.isOn(), flows } };
  },
  keep: ({ on, flows }, { workshopParts: { workshop } }) => {
    workshop.change({ on, open: flows, close: workshop.open().filter((flow) => !flows.includes(flow)) });
    return true;
  },
});
