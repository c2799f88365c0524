import { PindroError } from '../../errors/errors.js';
import { isObject, type JsonObject, type JsonSchema } from '../../json/json.js';
import { askForm } from '../calls/require-approval.js';
import { type BuiltIn, gives } from './built-in.js';

const TYPES = ['text', 'number', 'date', 'yes_or_no', 'choice'];

/** Asks whoever talks to the agent for what it lacks, by a small form. */
export const askUser: BuiltIn = {
  name: 'ask_user',
  description:
    'Asks the user for missing information with a form and waits for the answer. Use it once for everything that is missing, and only for that.',
  schema: {
    type: 'object',
    required: ['question', 'fields'],
    properties: {
      question: { type: 'string', minLength: 1, maxLength: 300, description: 'The question, in one sentence' },
      fields: {
        type: 'array',
        minItems: 1,
        maxItems: 12,
        items: {
          type: 'object',
          required: ['name', 'type'],
          properties: {
            name: {
              type: 'string',
              pattern: '^[a-z][a-z0-9_]{0,40}$',
              description: 'Name of the field, such as night',
            },
            type: { type: 'string', enum: TYPES },
            label: { type: 'string', maxLength: 100, description: 'Label that the user sees' },
            choices: { type: 'array', items: { type: 'string' }, maxItems: 40, description: 'Options to choose from' },
            optional: { type: 'boolean' },
          },
        },
      },
    },
  },
  reads: true,
  call: async ({ question, fields }, context, asking) => {
    const { decision, note, value } = await askForm(String(question), formOf(fields), context.path, asking);
    if (decision === 'approved') return gives({ answer: value ?? {}, ...(note && { note }) });
    const why = decision === 'expired' ? 'did not answer in time' : `declined to answer${note ? `: ${note}` : ''}`;
    throw new PindroError('call_not_approved', { tool: 'ask_user', who: 'the user', why }, { details: { decision } });
  },
};

/** The form as a schema: fields of one name are one. */
function formOf(fields: unknown): JsonSchema {
  const properties: JsonObject = {};
  const required: string[] = [];
  for (const field of Array.isArray(fields) ? fields.filter(isObject) : []) {
    const { name, type, label, choices, optional } = field;
    const title: JsonObject = typeof label === 'string' ? { title: label } : {};
    properties[String(name)] = { ...title, ...shapeOf(String(type), choices) };
    if (optional !== true && type !== 'yes_or_no') required.push(String(name));
  }
  return { type: 'object', properties, required: [...new Set(required)], additionalProperties: false };
}

function shapeOf(type: string, choices: unknown): JsonObject {
  if (type === 'choice' && Array.isArray(choices) && choices.length > 0)
    return { type: 'string', enum: choices.map(String) };
  if (type === 'number') return { type: 'number' };
  if (type === 'date') return { type: 'string', format: 'date' };
  return type === 'yes_or_no' ? { type: 'boolean' } : { type: 'string', minLength: 1 };
}
