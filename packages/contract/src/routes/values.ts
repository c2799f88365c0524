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
    about: 'Lists the possible values of an argument or input by calling their source',
    body: z.object({
      server: z.string().optional().describe('Tool server, for an argument of a tool'),
      tool: z.string().optional(),
      flow: z.string().optional().describe('Or the flow, for one of its inputs'),
      argument: z.string().describe('Name of the argument or input'),
      arguments: jsonObject.default({}).describe('Values entered so far; the list may depend on them'),
      credential: z.string().optional().describe("Credential to send; the server's own by default"),
      from: lookupSchema.optional().describe('Source of the values; the declared or proposed one by default'),
    }),
    answer: z.object({
      from: lookupSchema,
      proposed: z.boolean().describe('Whether the source was inferred from its name and schema'),
      items: z.array(z.object({ value: json, label: z.string().describe('Label; empty if there is only the value') })),
    }),
  },
} as const satisfies Record<string, Route>;
