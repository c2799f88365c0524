import { didYouMean, type Json, PindroError, stepKind, stepKinds } from '@pindro/core';
import { z } from 'zod';
import { FORMAT_NOTES } from '../format-notes.js';
import { type Answer, defineTool } from './tool.js';

export const readFormat = defineTool({
  name: 'read_format',
  title: 'Read the flow format',
  about:
    'Explains the format of a flow document and lists the step kinds. With "kind", returns the JSON Schema of what such a step accepts under "with".',
  input: z.strictObject({ kind: z.string().optional().describe('A step kind, such as table or http') }),
  reads: true,
  wider: true,
  call: ({ kind: name }): Answer => {
    if (name === undefined)
      return {
        result: {
          notes: FORMAT_NOTES,
          kinds: stepKinds().map(({ name, title, about }) => ({ kind: name, title, about })),
        },
      };
    const kind = stepKind(name);
    if (!kind) {
      const names = stepKinds().map((one) => one.name);
      throw new PindroError('not_found', { what: 'step kind', name, suggestion: didYouMean(name, names) });
    }
    const schema = z.toJSONSchema(kind.config, { io: 'input', unrepresentable: 'any' });
    return { result: { kind: name, title: kind.title, about: kind.about, with: schema as unknown as Json } };
  },
});
