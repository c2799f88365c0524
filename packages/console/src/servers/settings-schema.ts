import type { ServerDetail } from '@pindro/contract/light';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';

const VALUE: JsonSchema = {
  anyOf: [
    { type: 'string', title: 'a value' },
    {
      type: 'object',
      title: 'a credential',
      required: ['credential'],
      properties: {
        credential: { form: 'credential', title: 'Credential' },
        before: { type: 'string', title: 'Prefix', description: 'For example --token=' },
      },
    },
  ],
};
const PROGRAM: JsonSchema = {
  type: 'object',
  title: 'Program',
  required: ['command'],
  properties: {
    command: { type: 'string', title: 'Command', description: 'A program on the path, or its file' },
    args: { type: 'array', title: 'Arguments', description: 'In their order', items: VALUE },
    env: { type: 'object', title: 'Environment', description: 'Environment variables', additionalProperties: VALUE },
    cwd: { type: 'string', title: 'Working directory', description: 'Working directory' },
  },
};
const ALONG: Record<string, JsonSchema> = {
  url: { type: 'string', title: 'Address' },
  credential: { form: 'credential', title: 'Credential', description: 'Credential to send, if any' },
  secret: { type: 'string', writeOnly: true, title: 'New bearer key', description: 'Creates or renews its credential' },
  also: {
    type: 'array',
    items: { form: 'credential' },
    title: 'Additional credentials',
    description: 'Sent in addition',
  },
  headers: {
    type: 'object',
    additionalProperties: { type: 'string' },
    title: 'Headers',
    description: 'Without secrets',
  },
};
const NETWORK: JsonSchema = {
  type: 'object',
  title: 'Connection',
  properties: {
    ca: {
      type: 'string',
      form: 'long',
      title: 'Authorities',
      description: 'Additional trusted certificate authorities, in PEM',
    },
    certificate: { form: 'credential', title: 'Client certificate', description: 'For client authentication' },
    proxy: { type: 'string', title: 'Proxy', description: 'Proxy for its connections; an owner sets it' },
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
    connect: duration('Connection timeout', 'Time until the first response; 10 s by default'),
    call: duration('Call timeout', '60 s by default, extended while progress is reported'),
    silence: duration('Progress timeout', 'Maximum time without progress'),
    at_once: count('Concurrency', 'Maximum number of concurrent calls; others wait'),
    per_minute: count('Calls per minute', 'Maximum number of calls per minute; others wait'),
    ...(isProgram && { idle: duration('Idle timeout', 'Stops an unused program; 10 m by default') }),
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
      description: 'Who supplies an argument of this name, for every tool of the server with that argument',
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

/** Converts the value of the form for the API: omitted fields are empty. */
export function changeOf({ server: _, ...given }: JsonObject, isProgram: boolean): JsonObject {
  const none: JsonObject = { limits: {}, rules: {} };
  return isProgram
    ? { ...none, ...given, program: { args: [], env: {}, ...(given.program as JsonObject) } }
    : { ...none, credential: null, also: [], headers: {}, network: {}, ...given };
}
