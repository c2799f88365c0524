import { z } from 'zod';
import { type ErrorCode, PindroError, systemCode } from '../errors/errors.js';
import { type Json, valueAt } from '../json/json.js';
import { jsonMistake } from '../json/json-mistake.js';
import { capturing } from '../ports/capture-fetch.js';
import { withQuery } from '../ports/ports.js';
import { traceFields } from '../trace/spans/context.js';
import { named } from './document.js';
import { bodyOf, encodedBody, readBody } from './http/body.js';
import { type Page, pagesConfig, walkPages } from './http/pages.js';
import { cookieHeader, encodePairs, fillPath, headerText, parameterValues, stylesConfig } from './http/parameters.js';
import { reasonOf } from './http/reason.js';
import { defineKind, fixedName, type StepContext, type StepOutcome } from './kind.js';

const MEGABYTE = 1024 * 1024;

const config = z
  .strictObject({
    method: z
      .enum(['GET', 'POST', 'PUT', 'PATCH', 'DELETE', 'HEAD', 'OPTIONS'])
      .default('GET')
      .meta({ title: 'Method', description: 'HTTP method of the request' }),
    url: z.url({ protocol: /^https?$/, error: 'must be an address that begins with http:// or https://' }).meta({
      title: 'Address',
      description: 'Address of the request',
      examples: ['https://provisions.example/v1/items'],
    }),
    path: parameterValues
      .default({})
      .meta({ title: 'Path parameters', description: 'Values for the {names} in the address' }),
    query: parameterValues.default({}).meta({ title: 'Parameters', description: 'Added to the query string' }),
    headers: parameterValues
      .default({})
      .meta({ title: 'Headers', description: 'Request headers; use a credential for keys' }),
    cookies: parameterValues
      .default({})
      .meta({ title: 'Cookies', description: 'Sent in the Cookie header; use a credential for keys' }),
    styles: stylesConfig,
    ...encodedBody,
    credential: named('credential').optional().meta({ title: 'Credential', description: 'Credential to send' }),
    accept: z
      .array(z.number().int())
      .default([])
      .meta({
        title: 'Accepted statuses',
        description: 'Statuses of 400 and above that are not failures',
        examples: [404],
      }),
    read: z
      .enum(['by_type', 'json', 'text', 'base64'])
      .default('by_type')
      .meta({
        title: 'Response format',
        description: 'How the response body is parsed; by_type uses its Content-Type',
        words: { by_type: 'by Content-Type', json: 'as JSON', text: 'as text', base64: 'as bytes, in base64' },
      }),
    json_inside: z
      .array(z.string())
      .default([])
      .meta({
        title: 'JSON inside strings',
        description: 'Dotted paths of strings in the body that contain JSON to parse',
        examples: ['order.details'],
      }),
    max_size: z
      .number()
      .min(0.001)
      .max(100)
      .default(10)
      .meta({ title: 'Maximum response size', description: 'In MiB', unit: 'MiB' }),
    pages: pagesConfig
      .optional()
      .meta({ title: 'Pagination', description: 'Reads page after page and returns all items together' }),
  })
  .refine(
    (given) =>
      ['json', 'form', 'multipart', 'text', 'binary'].filter(
        (name) => name in given && given[name as 'json'] !== undefined,
      ).length <= 1,
    'takes one body: json, form, multipart, text or binary',
  );
type Config = z.infer<typeof config>;

/** What says itself why nothing was sent, or nothing was taken. */
const REFUSED: readonly ErrorCode[] = ['address_forbidden', 'answer_too_large'];

export const http = defineKind<Config>({
  name: 'http',
  title: 'Web request',
  about: 'Sends an HTTP request and reads the response, page after page if needed.',
  config,
  repeatable: (raw) => raw.method === undefined || ['GET', 'HEAD', 'OPTIONS'].includes(String(raw.method)),
  effects: (raw) => {
    const method = String(raw.method ?? 'GET');
    const reads = ['GET', 'HEAD', 'OPTIONS'].includes(method);
    return {
      outside: true,
      writes: !reads,
      destroys: !reads && method !== 'POST',
      repeatable: reads || method !== 'POST',
    };
  },
  branches: () => [],
  sentence: (raw) => {
    const body = raw.json ?? raw.form ?? raw.multipart ?? raw.text;
    return [
      `${typeof raw.method === 'string' ? raw.method : 'GET'} `,
      { value: raw.url ?? '' },
      ...(body === undefined ? [] : [' with ', { value: body }]),
      raw.pages === undefined ? '' : ', all pages',
    ];
  },
  output: (raw): Record<string, string> => ({
    status: 'int',
    headers: 'map<string, string>',
    body: raw.pages === undefined ? 'dyn' : 'list<dyn>',
    ...(raw.pages !== undefined && { pages: 'int' }),
  }),
  references: (raw) => ({ credentials: fixedName(raw.credential) }),
  run: async (config, context): Promise<StepOutcome> => {
    const { secrets, headers, ...secret } = config.credential
      ? await context.run.ports.secrets.reveal(config.credential, { url: config.url })
      : { headers: {}, secrets: [] };
    for (const value of secrets) context.recorder.masker.add(value);
    const first = addressOf(config);
    const load = (url: URL) => request(new URL(withQuery(url.href, secret)), config, headers, context);
    if (!config.pages) {
      const { status, headers: answered, body } = await load(first);
      return { output: { status, headers: answered, body } };
    }
    const { items, pages, last } = await walkPages(config.pages, first, load);
    return { output: { status: last.status, headers: last.headers, body: items, pages } };
  },
});

/** The address with its path and query parameters. */
function addressOf({ url, path, query, styles }: Config): URL {
  const address = new URL(fillPath(url, path, styles));
  const added = encodePairs(query, 'query', styles);
  if (added) address.search = address.search ? `${address.search}&${added}` : added;
  return address;
}

async function request(
  url: URL,
  config: Config,
  secretHeaders: Record<string, string>,
  { run: { ports }, signal, recorder, parentSpan, captureExchange }: StepContext,
): Promise<Page> {
  const { type, text, binary } = bodyOf(config);
  const headers: Record<string, string> = {
    accept: 'application/json, text/*;q=0.8, */*;q=0.5',
    ...traceFields(recorder.head, parentSpan),
  };
  for (const [name, value] of Object.entries(config.headers))
    headers[name.toLowerCase()] = headerText(name, value, config.styles);
  const cookies = cookieHeader(config.cookies, config.styles);
  if (cookies) headers.cookie = headers.cookie ? `${headers.cookie}; ${cookies}` : cookies;
  if (type) headers['content-type'] ??= type;
  Object.assign(headers, secretHeaders);
  const address = url.origin + url.pathname;
  const readBinary = config.read === 'base64';
  const way = binary ? (readBinary ? 'both' : 'body') : readBinary ? 'answer' : undefined;
  const answer = await capturing(ports.fetch, captureExchange)(
    {
      method: config.method,
      url: url.href,
      headers,
      body: text,
      ...(way && { binary: way }),
      maxBytes: Math.round(config.max_size * MEGABYTE),
    },
    { signal },
  ).catch((error: unknown) => {
    if (signal.aborted) throw signal.reason;
    if (error instanceof PindroError && REFUSED.includes(error.code)) throw error;
    throw new PindroError(
      'address_unreachable',
      { what: 'The server', address, why: (error as Error).message },
      { cause: error, details: { address, network: systemCode(error) } },
    );
  });
  const failed = answer.status >= 400;
  if (failed && !config.accept.includes(answer.status)) {
    const body = recorder.masker.text(answer.body).slice(0, 2000);
    const wants = answer.headers['www-authenticate'];
    throw new PindroError(
      'http_status',
      { address, status: answer.status, reason: recorder.masker.text(reasonOf(answer.status, body)) },
      { details: { address, status: answer.status, body, ...(wants && { wants: recorder.masker.text(wants) }) } },
    );
  }
  const body = readBody(answer.body, config.read, answer.headers['content-type'] ?? '', failed);
  return { status: answer.status, headers: answer.headers, body: openTexts(body, config.json_inside) };
}

/** Reads the JSON that stands inside of texts, at the given places. */
function openTexts(body: Json, paths: readonly string[]): Json {
  if (paths.length === 0) return body;
  const opened = structuredClone(body);
  for (const path of paths) {
    const parts = path.split('.');
    const holder = valueAt(opened, parts.slice(0, -1)) as Record<string, Json> | undefined;
    const text = holder?.[parts.at(-1)!];
    if (typeof text !== 'string') continue;
    try {
      holder![parts.at(-1)!] = JSON.parse(text) as Json;
    } catch (error) {
      throw new PindroError('step_failed', { why: `The text at "${path}" is not JSON: ${jsonMistake(error)}` });
    }
  }
  return opened;
}
