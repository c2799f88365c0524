import { lookupSchema } from '@pindro/core/browser';
import { z } from 'zod';
import type { Route } from './route.js';
import { json, jsonObject } from './shapes.js';

/** Values to choose from. */
export const values = {
  listValues: {
    method: 'POST',
    role: 'operator',
    path: '/values',
    about: 'Lists the values that an argument or an input can have, by calling what lists them',
    body: z.object({
      server: z.string().optional().describe('The tool server, for an argument of a tool'),
      tool: z.string().optional(),
      flow: z.string().optional().describe('Or the flow, for one of its inputs'),
      argument: z.string().describe('Name of the argument or input'),
      arguments: jsonObject.default({}).describe('What is filled in so far: values may depend on it'),
      credential: z.string().optional().describe("The credential that goes along; the server's own if left out"),
      from: lookupSchema.optional().describe('Where they come from; what is declared or proposed if left out'),
    }),
    answer: z.object({
      from: lookupSchema,
      proposed: z.boolean().describe('Whether the source was proposed by name and schema'),
      items: z.array(
        z.object({ value: json, label: z.string().describe('What people read; empty if only the value') }),
      ),
    }),
  },
} as const satisfies Record<string, Route>;
