import type { EntrySettings } from '@pindro/contract/light';
import { isObject, type JsonObject, type JsonSchema } from '@pindro/core/browser';
import { resolved } from '../../forms/schema.js';

type Kind = EntrySettings['kind'];
type Properties = { [name: string]: JsonSchema };

const text = (title: string, more: JsonSchema = {}): JsonSchema => ({ type: 'string', title, common: true, ...more });
const choice = (title: string, words: { [value: string]: string }, more: JsonSchema = {}): JsonSchema => ({
  ...{ enum: Object.keys(words), words, default: Object.keys(words)[0]!, title, common: true },
  ...more,
});
/** How a form ends for one outcome: a text, or another address. */
const ending = (title: string): JsonSchema => ({
  ...{ type: 'object', title, description: 'Text, or an address to redirect to' },
  properties: {
    message: text('Text', { form: 'long', description: '“${ input.name }” and “${ error.message }” are replaced' }),
    address: text('Redirect to'),
  },
});
const path = text('Last part of the address');
const perMinute: JsonSchema = {
  ...{ type: 'integer', minimum: 1, maximum: 6000, default: 60, title: 'Rate limit' },
  description: 'Maximum calls per minute',
};
const bodyLimit = text('Maximum body size', {
  ...{ default: '1MiB', common: false, description: 'Such as 512KiB or 4MiB' },
});

/** Forms of the entry points. The form of a page depends on what follows it. */
const FORMS: Record<Kind, (given: JsonObject, input: JsonSchema) => Properties> = {
  hook: () => ({
    path,
    methods: {
      ...{ type: 'array', uniqueItems: true, title: 'Methods', common: true, default: ['POST'] },
      items: { enum: ['GET', 'POST', 'PUT', 'PATCH', 'DELETE'] },
      description: 'HTTP methods it accepts',
    },
    guard: choice('Authentication', {
      ...{ key: 'access key', signature: 'signature with the secret', open: 'everybody' },
    }),
    answer: choice('Response', {
      result: 'the result as JSON',
      run: 'the run ID, immediately',
      response: 'the status, headers and body in the result',
    }),
    origins: {
      ...{ type: 'array', items: { type: 'string' }, title: 'Allowed origins' },
      description: 'Origins of pages that may call it from a browser, such as https://huts.example',
    },
    perMinute,
    bodyLimit,
  }),
  form: (given) => ({
    path,
    title: text('Title', { description: "The flow's title by default" }),
    about: text('Heading of the form', { form: 'long' }),
    button: text('Button text', { default: 'Send', common: false }),
    after: choice('After submission', { message: 'a message', address: 'another address', form: 'another form' }),
    ...((given.after ?? 'message') === 'message'
      ? {
          message: text('The message', {
            ...{ default: 'Thank you. Your message has been received.', form: 'long' },
            description: '“${ result }” is replaced',
          }),
        }
      : { address: text(given.after === 'form' ? 'Name of the next form' : 'Address') }),
    waiting: ending('While the run waits'),
    refused: ending('If the flow stops or a person rejects'),
    failed: ending('If the run fails'),
    choices: {
      ...{ type: 'boolean', default: true, title: 'Offer values' },
      description: 'Inputs with "x-values" show their values to everybody who opens the form',
    },
    perMinute,
    bodyLimit,
  }),
  chat: () => ({
    path,
    title: text('Title', { description: "The flow's title by default" }),
    greeting: text('Greeting', { default: 'Hello. How can I help you?', form: 'long' }),
    perMinute,
  }),
  schedule: (_, input) => ({
    cron: text('Cron expression', {
      description: 'Minute, hour, day of month, month, day of week. “0 6 * * 1” is Mondays at six.',
    }),
    zone: text('Time zone', { common: false, description: "The workspace's by default" }),
    missed: choice('Missed runs while Pindro was not running', { skip: 'skip', once: 'run once' }),
    overlap: choice('If the previous run is still running', {
      ...{ skip: 'skip the new run', wait: 'queue the new run', allow: 'run both' },
    }),
    ...(Object.keys(isObject(input.properties) ? input.properties : {}).length > 0 && {
      input: { ...input, title: 'Input of each run', common: true },
    }),
  }),
};
const REQUIRED: Record<Kind, string[]> = {
  hook: ['path'],
  form: ['path'],
  chat: ['path'],
  schedule: ['cron', 'input'],
};

/** Returns the form of an entry point. @param input input schema of the flow, for values that it supplies itself */
export const waySchema = (kind: Kind, given: JsonObject, input: JsonSchema): JsonSchema => ({
  type: 'object',
  required: [...REQUIRED[kind], ...(given.after && given.after !== 'message' ? ['address'] : [])],
  properties: FORMS[kind](given, resolved(input, input)),
});

/** Settings of a new entry point. */
export const NEW_WAY: Record<Kind, JsonObject> = {
  hook: {},
  form: {},
  chat: {},
  schedule: { cron: '0 6 * * *' },
};
