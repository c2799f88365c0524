import { z } from 'zod';
import { PindroError } from '../errors.js';
import type { Json } from '../json.js';
import { traceparent } from '../trace/ids.js';
import { defineKind, fixedName } from './kind.js';

const MEGABYTE = 1024 * 1024;
const scalar = z.union([z.string(), z.number(), z.boolean()]);

const config = z.strictObject({
  method: z.enum(['GET', 'POST', 'PUT', 'PATCH', 'DELETE', 'HEAD']).default('GET'),
  url: z
    .url({ protocol: /^https?$/, error: 'must be an address that begins with http:// or https://' })
    .describe('The address'),
  query: z.record(z.string(), scalar).default({}).describe('Parameters added to the address'),
  headers: z.record(z.string(), scalar).default({}),
  json: (z.json() as z.ZodType<Json>).optional().describe('A body sent as JSON'),
  text: z.string().optional().describe('A body sent as text'),
  credential: z.string().optional().describe('A credential that goes along'),
  accept: z.array(z.number().int()).default([]).describe('Statuses of 400 and above that are not failures'),
});

export const http = defineKind<z.infer<typeof config>>({
  name: 'http',
  title: 'Web request',
  about: 'Sends a request to a web address and reads the answer.',
  config,
  repeatable: (raw) => raw.method === undefined || raw.method === 'GET' || raw.method === 'HEAD',
  branches: () => [],
  sentence: (raw) => [
    `${typeof raw.method === 'string' ? raw.method : 'GET'} `,
    { value: raw.url ?? '' },
    ...(raw.json === undefined ? [] : [' with ', { value: raw.json }]),
  ],
  output: () => ({ status: 'int', headers: 'map<string, string>', body: 'dyn' }),
  references: (raw) => ({ credentials: fixedName(raw.credential) }),
  run: async (config, { ports, signal, recorder, parentSpan }) => {
    const url = new URL(config.url);
    for (const [name, value] of Object.entries(config.query)) url.searchParams.append(name, String(value));
    const secret = config.credential ? await ports.secrets.reveal(config.credential) : { headers: {}, secrets: [] };
    for (const value of secret.secrets) recorder.masker.add(value);
    const headers: Record<string, string> = {
      accept: 'application/json, text/*;q=0.8, */*;q=0.5',
      traceparent: traceparent(recorder.head.traceId, parentSpan),
    };
    for (const [name, value] of Object.entries(config.headers)) headers[name.toLowerCase()] = String(value);
    if (config.json !== undefined) headers['content-type'] ??= 'application/json';
    Object.assign(headers, secret.headers);
    const body = config.json === undefined ? (config.text ?? null) : JSON.stringify(config.json);
    const address = url.origin + url.pathname;
    const answer = await ports
      .fetch({ method: config.method, url: url.href, headers, body, maxBytes: 10 * MEGABYTE }, { signal })
      .catch((error: unknown) => {
        if (signal.aborted) throw signal.reason;
        throw new PindroError(
          'address_unreachable',
          { what: 'What should answer', address, why: (error as Error).message },
          { cause: error, details: { address } },
        );
      });
    const output = {
      status: answer.status,
      headers: answer.headers,
      body: parseBody(answer.body, answer.headers['content-type'] ?? '', answer.status >= 400),
    };
    if (answer.status >= 400 && !config.accept.includes(answer.status)) {
      throw new PindroError(
        'http_status',
        { address, status: answer.status },
        { details: { address, status: answer.status, body: recorder.masker.text(answer.body.slice(0, 2000)) } },
      );
    }
    return { output };
  },
});

/** A body by its type; what a failed request says of itself is taken as it is. */
function parseBody(text: string, type: string, failed: boolean): Json {
  if (!/\bjson\b/i.test(type)) return text;
  if (text.trim() === '') return null;
  try {
    return JSON.parse(text) as Json;
  } catch (error) {
    if (failed) return text;
    throw new PindroError('step_failed', {
      why: `The answer says it is JSON but is not: ${(error as Error).message}`,
    });
  }
}
