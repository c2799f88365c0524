import { z } from 'zod';
import { figureBy } from '../metrics.js';
import { defineResource } from './descriptor.js';

/** Views of metrics, kept under a name for everybody. */
export const view = defineResource({
  name: 'view',
  plural: 'views',
  words: 'view of metrics',
  path: '/views/:name',
  role: 'operator',
  verbs: { rename: true, copy: true, remove: true },
  create: 'save',
  page: '/metrics?view=NAME',
  list: '/metrics',
  files: ['views.yaml'],
  fields: z.object({
    groupBy: figureBy.default('flow').meta({ title: 'Group by' }),
    hours: z.number().int().min(1).max(720).default(24).meta({ title: 'Period in hours' }),
  }),
});
