import type { ServerDetail } from '@pindro/contract/light';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';

const VALUE: JsonSchema = {
  anyOf: [
    { type: 'string', title: 'a value' },
    {
      type: 'object',
      title: 'what a credential holds',
      required: ['credential'],
      properties: {
        credential: { form: 'credential', title: 'Credential' },
        before: { type: 'string', title: 'In front of it', description: 'For example --token=' },
      },
    },
  ],
};
const PROGRAM: JsonSchema = {
  type: 'object',
  title: 'Program',
  required: ['command'],
  properties: {
    command: { type: 'string', title: 'What is run', description: 'A program on the path, or its file' },
    args: { type: 'array', title: 'Arguments', description: 'In their order', items: VALUE },
    env: { type: 'object', title: 'Environment', description: 'What it finds there', additionalProperties: VALUE },
    cwd: { type: 'string', title: 'Folder', description: 'Where it works' },
  },
};
const ALONG: Record<string, JsonSchema> = {
  url: { type: 'string', title: 'Address' },
  credential: { form: 'credential', title: 'Credential', description: 'What goes along, if anything' },
  secret: { type: 'string', writeOnly: true, title: 'A new bearer key', description: 'Makes or renews its credential' },
  also: {
    type: 'array',
    items: { form: 'credential' },
    title: 'Further credentials',
    description: 'What goes along besides',
  },
  headers: {
    type: 'object',
    additionalProperties: { type: 'string' },
    title: 'Headers',
    description: "That are nobody's secret",
  },
};
const NETWORK: JsonSchema = {
  type: 'object',
  title: 'Way to it',
  properties: {
    ca: {
      type: 'string',
      form: 'long',
      title: 'Authorities',
      description: 'Certificates that are trusted for it besides the usual ones, in PEM',
    },
    certificate: { form: 'credential', title: 'Certificate', description: 'With which we show who we are' },
    proxy: { type: 'string', title: 'Proxy', description: 'Through which it is reached; an owner sets it' },
  },
};
const duration = (title: string, description: string): JsonSchema => ({
  ...{ type: 'string', form: 'duration', title, description },
});
const count = (title: string, description: string): JsonSchema => ({
  ...{ type: 'integer', minimum: 1, title, description },
});
const limits = (isProgram: boolean): JsonSchema => ({
  type: 'object',
  title: 'Limits',
  properties: {
    connect: duration('To answer', 'How long it may take to answer for the first time; 10 s if left out'),
    call: duration('For a call', 'How long a call may take; 60 s if left out, and longer while it says how far it is'),
    silence: duration('Without a word', 'How long a call may go on without saying how far it is'),
    at_once: count('At once', 'How many calls may be under way; others wait'),
    per_minute: count('In a minute', 'How many calls begin in a minute; others wait'),
    ...(isProgram && { idle: duration('Unused', 'When it is stopped if nobody uses it; 10 m if left out') }),
  },
});

/** The settings of a tool server as a form, by whether it is a program or at an address. */
export const settingsSchema = (isProgram: boolean): JsonSchema => ({
  type: 'object',
  required: [isProgram ? 'program' : 'url'],
  properties: {
    ...(isProgram ? { program: PROGRAM } : ALONG),
    limits: limits(isProgram),
    ...(!isProgram && { network: NETWORK }),
    rules: {
      form: 'server-rules',
      title: 'Arguments',
      description: 'Who supplies an argument of that name, on every tool of the server that has it',
    },
  },
});

/** What a server is set to, as the form has it. */
export const settingsOf = (server: ServerDetail): JsonObject => ({
  server: server.name,
  ...(server.program ? { program: server.program as unknown as JsonObject } : { url: server.url }),
  ...(server.credential && { credential: server.credential }),
  ...(server.also.length > 0 && { also: server.also }),
  ...(Object.keys(server.headers).length > 0 && { headers: server.headers }),
  ...(Object.keys(server.limits).length > 0 && { limits: server.limits }),
  ...(Object.keys(server.network).length > 0 && { network: server.network }),
  ...(Object.keys(server.rules).length > 0 && { rules: server.rules as JsonObject }),
});

/** The form's value as the service takes it: what is left out is none. */
export function changeOf({ server: _, ...given }: JsonObject, isProgram: boolean): JsonObject {
  const none: JsonObject = { limits: {}, rules: {} };
  return isProgram
    ? { ...none, ...given, program: { args: [], env: {}, ...(given.program as JsonObject) } }
    : { ...none, credential: null, also: [], headers: {}, network: {}, ...given };
}
