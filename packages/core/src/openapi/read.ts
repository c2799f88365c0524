import { PindroError } from '../errors/errors.js';
import { readSource } from '../flow/source.js';
import { findUnsafe, isObject, type Json, type JsonObject, type JsonSchema } from '../json/json.js';
import { withoutEnd } from '../text/text-ends.js';
import { modern } from './modern.js';
import { References } from './references.js';

export interface ApiParameter {
  name: string;
  in: 'path' | 'query' | 'header' | 'cookie';
  required: boolean;
  description: string;
  schema: JsonSchema;
  /** How a list or an object is written, where it is not the default of its place. */
  style?: { style?: string; explode?: boolean };
}

/** One operation of an OpenAPI document, with references resolved. */
export interface ApiOperation {
  id: string;
  method: string;
  path: string;
  title: string;
  description: string;
  parameters: ApiParameter[];
  body: ApiBody | null;
  /** Its own base address, where it has one. */
  base: string | null;
  /** Why it cannot become a flow, or null. */
  trouble: string | null;
}

export interface ApiBody {
  schema: JsonSchema;
  required: boolean;
  /** The field of an http step that takes it. */
  as: 'json' | 'form' | 'multipart' | 'text' | 'binary';
  /** Its media type. */
  media: string;
  /** How fields of a form are written, by name. */
  styles: Record<string, { style?: string; explode?: boolean }>;
}

export interface ApiDescription {
  title: string;
  version: string;
  bases: string[];
  security: { words: string; header: string | null; bearer: boolean } | null;
  operations: ApiOperation[];
}

const METHODS = ['get', 'put', 'post', 'delete', 'patch', 'head', 'options'];
/** The most operations of a document. */
const MOST = 5000;

/**
 * Reads an OpenAPI document, 3.0 or 3.1, JSON or YAML.
 * @param text of the document
 * @param wanted the ids of the operations that come with their parameters and body; the others are only listed
 * @param at the address of the document, to which those that it names may be relative
 * @returns title, version, addresses, authentication and operations
 * @throws document_unreadable with where it is wrong
 */
export function readOpenApi(text: string, wanted?: readonly string[], at?: string): ApiDescription {
  const { value, mistakes } = readSource(text);
  if (mistakes.length > 0)
    throw new PindroError('document_unreadable', { why: mistakes[0]!.message }, { mistakes, at: mistakes[0]!.at });
  if (!isObject(value) || typeof value.openapi !== 'string' || !/^3\.[01]\./.test(value.openapi)) {
    const said = isObject(value) ? (value.openapi ?? value.swagger) : undefined;
    throw new PindroError('document_unreadable', {
      why: `it must declare "openapi: 3.0.x" or "3.1.x"${said === undefined ? '' : `, not ${JSON.stringify(said)}`}`,
    });
  }
  const unsafe = findUnsafe(value);
  if (unsafe)
    throw new PindroError('document_unreadable', { why: `the value at ${unsafe.at} ${unsafe.why}` }, { at: unsafe.at });
  const references = new References(value);
  const info = isObject(value.info) ? value.info : {};
  return {
    title: String(info.title ?? 'API'),
    version: String(info.version ?? ''),
    bases: basesOf(value.servers, at),
    security: securityOf(value, references),
    operations: operationsOf(value, { references, wanted: wanted && new Set(wanted), at }),
  };
}

const basesOf = (servers: Json | undefined, at: string | undefined): string[] =>
  list(servers)
    .filter(isObject)
    .map(serverAddress)
    .map((address) => (at && !/^\w+:/.test(address) && URL.canParse(address, at) ? new URL(address, at).href : address))
    .map((address) => withoutEnd(address, '/'))
    .filter((address) => /^https?:\/\//.test(address));

interface Reading {
  references: References;
  wanted: ReadonlySet<string> | undefined;
  at: string | undefined;
}

/** An address in which the variables have their default values. */
function serverAddress(server: JsonObject): string {
  const variables = isObject(server.variables) ? server.variables : {};
  const url = String(server.url ?? '').replaceAll(/\{(\w+)\}/g, (whole, name: string) => {
    const variable = variables[name];
    return isObject(variable) ? String(variable.default ?? whole) : whole;
  });
  return withoutEnd(url, '/');
}

function operationsOf(document: JsonObject, reading: Reading): ApiOperation[] {
  const paths = isObject(document.paths) ? Object.entries(document.paths) : [];
  const operations = paths.flatMap(([path, item]) => {
    const followed = reading.references.follow(item);
    const shared = isObject(followed) ? followed : {};
    return METHODS.filter((method) => isObject(shared[method])).map((method) =>
      operationOf(reading, path, method, shared[method] as JsonObject, shared),
    );
  });
  if (operations.length === 0)
    throw new PindroError('document_unreadable', {
      why: isObject(document.webhooks) ? 'it has only webhooks, and no operation to call' : 'it has no operations',
    });
  if (operations.length <= MOST) return operations;
  throw new PindroError('document_unreadable', {
    why: `it has ${operations.length} operations, and the limit is ${MOST}`,
  });
}

function operationOf(
  { references, wanted, at }: Reading,
  path: string,
  method: string,
  operation: JsonObject,
  item: JsonObject,
): ApiOperation {
  const id = typeof operation.operationId === 'string' ? operation.operationId : `${method} ${path}`;
  const whole = wanted?.has(id) ?? true;
  const listed = [...list(item.parameters), ...list(operation.parameters)]
    .map((one) => references.follow(one))
    .filter(isObject)
    // What the request itself brings along is not for the caller to say.
    .filter(
      ({ in: place, name }) => place !== 'header' || !/^(accept|content-type|authorization)$/i.test(String(name)),
    );
  // An operation says again what it changes of its path.
  const own = new Map(listed.map((one) => [`${one.in} ${one.name}`, one]));
  const media = mediaOf(operation, references);
  return {
    id,
    method: method.toUpperCase(),
    path,
    title: String(operation.summary ?? operation.operationId ?? `${method.toUpperCase()} ${path}`),
    description: String(operation.description ?? operation.summary ?? ''),
    parameters: whole ? [...own.values()].map((one) => parameterOf(one, references)) : [],
    body: whole && media !== null ? bodyOf(media, references) : null,
    base: basesOf(operation.servers ?? item.servers, at)[0] ?? null,
    trouble: listed.find(({ in: place }) => !PLACES.includes(String(place)))
      ? 'one of its parameters is neither in the path, the query, a header nor a cookie'
      : null,
  };
}

const PLACES = ['path', 'query', 'header', 'cookie'];

function parameterOf(one: JsonObject, references: References): ApiParameter {
  const place = String(one.in) as ApiParameter['in'];
  const [content] = isObject(one.content) ? Object.values(one.content) : [];
  const schema = isObject(one.schema)
    ? one.schema
    : isObject(content) && isObject(content.schema)
      ? content.schema
      : {};
  const style = content === undefined ? styleOf(one) : { style: 'json' };
  return {
    name: String(one.name),
    in: place,
    required: one.required === true || place === 'path',
    description: String(one.description ?? ''),
    schema: modern(references.writeOut(schema)),
    ...(style && { style }),
  };
}

/** What it says of how lists and objects are written. */
function styleOf({ style, explode }: JsonObject): ApiParameter['style'] | null {
  const said = {
    ...(typeof style === 'string' && { style }),
    ...(typeof explode === 'boolean' && { explode }),
  };
  return Object.keys(said).length > 0 ? said : null;
}

interface Media extends Omit<ApiBody, 'schema'> {
  schema: Json | undefined;
}

/** How an operation can take its body, what is preferred first. */
const WAYS: [ApiBody['as'], RegExp][] = [
  ['json', /[/+]json\b/i],
  ['form', /^application\/x-www-form-urlencoded\b/i],
  ['multipart', /^multipart\//i],
  ['text', /^text\/|[/+](?:xml|yaml|graphql|javascript)\b/i],
  ['json', /^(?:\*|application)\/\*$/],
  ['binary', /./],
];

/** In which form an operation takes its body, where it takes one. */
function mediaOf(operation: JsonObject, references: References): Media | null {
  const body = references.follow(operation.requestBody ?? null);
  if (!isObject(body) || !isObject(body.content)) return null;
  const { content } = body;
  for (const [as, fits] of WAYS) {
    const type = Object.keys(content).find((name) => fits.test(name));
    if (type === undefined) continue;
    const media = isObject(content[type]) ? (content[type] as JsonObject) : {};
    const encoding = isObject(media.encoding) ? media.encoding : {};
    const styles = Object.entries(encoding).flatMap(([name, one]) => {
      if (!isObject(one)) return [];
      const style = /json/i.test(String(one.contentType ?? '')) ? { style: 'json' } : styleOf(one);
      return style ? [[name, style] as const] : [];
    });
    return {
      ...{ schema: media.schema, required: body.required === true, as, styles: Object.fromEntries(styles) },
      media: type.includes('*') ? (as === 'json' ? 'application/json' : 'application/octet-stream') : type,
    };
  }
  return null;
}

function bodyOf({ schema, ...rest }: Media, references: References): ApiBody {
  return { schema: flattened(isObject(schema) ? modern(references.writeOut(schema)) : {}), ...rest };
}

/** Objects that are put together out of several are one object for a form. */
function flattened(schema: JsonSchema): JsonSchema {
  if (!Array.isArray(schema.allOf) || schema.properties) return schema;
  const parts = schema.allOf.filter(isObject);
  if (!parts.every((part) => isObject(part.properties))) return schema;
  return {
    type: 'object',
    required: parts.flatMap((part) => list(part.required)),
    properties: Object.assign({}, ...parts.map((part) => part.properties)) as JsonObject,
  };
}

function securityOf(document: JsonObject, references: References): ApiDescription['security'] {
  const components = isObject(document.components) ? document.components : {};
  const schemes = isObject(components.securitySchemes) ? Object.values(components.securitySchemes) : [];
  for (const scheme of schemes.map((one) => references.follow(one)).filter(isObject)) {
    if (scheme.type === 'apiKey' && scheme.in === 'header')
      return { words: `a key in the header ${scheme.name}`, header: String(scheme.name), bearer: false };
    if (scheme.type === 'http' && String(scheme.scheme).toLowerCase() === 'basic')
      return { words: 'a user name and password', header: null, bearer: false };
    if (scheme.type === 'http' || scheme.type === 'oauth2' || scheme.type === 'openIdConnect')
      return { words: 'a bearer token', header: null, bearer: true };
  }
  return null;
}

const list = (value: Json | undefined): Json[] => (Array.isArray(value) ? value : []);
