import { z } from 'zod';
import type { Route } from './route.js';

export const docPage = z.object({
  name: z.string().describe('Name of the page, such as agents'),
  title: z.string(),
  about: z.string().describe('First sentence of the page'),
  text: z.string().describe('Markdown'),
});
export type DocPage = z.infer<typeof docPage>;

/** The documentation that the service serves at `/docs`. */
export const docs = {
  listDocs: {
    method: 'GET',
    role: 'viewer',
    path: '/docs',
    about: 'Lists the pages of the documentation in reading order',
    answer: z.object({ items: z.array(docPage.omit({ text: true })) }),
  },
  getDoc: {
    method: 'GET',
    role: 'viewer',
    path: '/docs/:name',
    about: 'Returns one page of the documentation as Markdown',
    answer: docPage,
  },
} as const satisfies Record<string, Route>;
