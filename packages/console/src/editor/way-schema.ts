import type { EntrySettings } from '@pindro/contract/light';
import { isObject, type JsonObject, type JsonSchema } from '@pindro/core/browser';
import { resolved } from '../forms/schema.js';

type Kind = EntrySettings['kind'];
type Properties = { [name: string]: JsonSchema };

const text = (title: string, more: JsonSchema = {}): JsonSchema => ({ type: 'string', title, common: true, ...more });
const choice = (title: string, words: { [value: string]: string }, more: JsonSchema = {}): JsonSchema => ({
  ...{ enum: Object.keys(words), words, default: Object.keys(words)[0]!, title, common: true },
  ...more,
});
/** How a form ends for one outcome: a text, or another address. */
const ending = (title: string): JsonSchema => ({
  ...{ type: 'object', title, description: 'A text, or an address to redirect to' },
  properties: {
    message: text('Text', { form: 'long', description: '“${ input.name }” and “${ error.message }” are filled in' }),
    address: text('Redirect to'),
  },
});
const path = text('Its own part of the address');
const perMinute: JsonSchema = {
  ...{ type: 'integer', minimum: 1, maximum: 6000, default: 60, title: 'Calls a minute' },
  description: 'At most so many',
};
const bodyLimit = text('The largest message', {
  ...{ default: '1MiB', common: false, description: 'What is taken, such as 512KiB or 4MiB' },
});

/** What each way in takes, as a form. The form of a page depends on what follows it. */
const FORMS: Record<Kind, (given: JsonObject, input: JsonSchema) => Properties> = {
  hook: () => ({
    path,
    methods: {
      ...{ type: 'array', uniqueItems: true, title: 'Methods', common: true, default: ['POST'] },
      items: { enum: ['GET', 'POST', 'PUT', 'PATCH', 'DELETE'] },
      description: 'How it may be called',
    },
    guard: choice('Who may call', {
      ...{ key: 'who has an access key', signature: 'who signs with the secret', open: 'everybody' },
    }),
    answer: choice('Response', {
      result: 'the result as JSON',
      run: 'the run ID, immediately',
      response: 'the status, headers and body in the result',
    }),
    origins: {
      ...{ type: 'array', items: { type: 'string' }, title: 'Pages that may call it from a browser' },
      description: 'By origin, such as https://huts.example',
    },
    perMinute,
    bodyLimit,
  }),
  form: (given) => ({
    path,
    title: text('Title', { description: "The flow's title if left out" }),
    about: text('What stands above the form', { form: 'long' }),
    button: text('Words on the button', { default: 'Send', common: false }),
    after: choice('After it was sent', { message: 'a message', address: 'another address', form: 'another form' }),
    ...((given.after ?? 'message') === 'message'
      ? {
          message: text('The message', {
            ...{ default: 'Thank you. It has arrived.', form: 'long' },
            description: '“${ result }” is filled in',
          }),
        }
      : { address: text(given.after === 'form' ? 'Name of the next form' : 'The address') }),
    waiting: ending('While the run waits'),
    refused: ending('When the flow or a person refuses'),
    failed: ending('When the run fails'),
    choices: {
      ...{ type: 'boolean', default: true, title: 'Offer values' },
      description: 'Inputs with "x-values" offer their values to everybody who opens the form',
    },
    perMinute,
    bodyLimit,
  }),
  chat: () => ({
    path,
    title: text('Title', { description: "The flow's title if left out" }),
    greeting: text('What it says first', { default: 'Hello. What can I do for you?', form: 'long' }),
    perMinute,
  }),
  schedule: (_, input) => ({
    cron: text('When', {
      description: 'Minute, hour, day of month, month, day of week. “0 6 * * 1” is Mondays at six.',
    }),
    zone: text('Time zone', { common: false, description: "The workspace's if left out" }),
    missed: choice('Times missed while Pindro was down', { skip: 'are left out', once: 'are made up for, once' }),
    overlap: choice('When the last run is still under way', {
      ...{ skip: 'the new one is left out', wait: 'the new one waits', allow: 'both run' },
    }),
    ...(Object.keys(isObject(input.properties) ? input.properties : {}).length > 0 && {
      input: { ...input, title: 'What it gives the flow', common: true },
    }),
  }),
};
const REQUIRED: Record<Kind, string[]> = {
  hook: ['path'],
  form: ['path'],
  chat: ['path'],
  schedule: ['cron', 'input'],
};

/** The form of one way into a flow. @param input what the flow takes, for what it begins with by itself */
export const waySchema = (kind: Kind, given: JsonObject, input: JsonSchema): JsonSchema => ({
  type: 'object',
  required: [...REQUIRED[kind], ...(given.after && given.after !== 'message' ? ['address'] : [])],
  properties: FORMS[kind](given, resolved(input, input)),
});

/** What a new way in begins with. */
export const NEW_WAY: Record<Kind, JsonObject> = {
  hook: {},
  form: {},
  chat: {},
  schedule: { cron: '0 6 * * *' },
};
