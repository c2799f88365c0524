import { PindroError } from '../errors.js';
import { readSource } from '../flow/source.js';
import { findUnsafe, isObject, type Json, type JsonObject, type JsonSchema } from '../json.js';
import { withoutEnd } from '../text-ends.js';
import { modern } from './modern.js';
import { References } from './references.js';

export interface ApiParameter {
  name: string;
  in: 'path' | 'query' | 'header';
  required: boolean;
  description: string;
  schema: JsonSchema;
}

/** One operation of an OpenAPI document, with the references of what it takes written out. */
export interface ApiOperation {
  id: string;
  method: string;
  path: string;
  title: string;
  description: string;
  parameters: ApiParameter[];
  body: { schema: JsonSchema; required: boolean; type: 'json' | 'form' } | null;
  /** Why it cannot become a flow, or null. */
  trouble: string | null;
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
 * @param wanted the ids of the operations that come with their parameters and body; the others are only listed
 * @throws document_unreadable with where it is wrong
 */
export function readOpenApi(text: string, wanted?: readonly string[]): ApiDescription {
  const { value, mistakes } = readSource(text);
  if (mistakes.length > 0)
    throw new PindroError('document_unreadable', { why: mistakes[0]!.message }, { mistakes, at: mistakes[0]!.at });
  if (!isObject(value) || typeof value.openapi !== 'string' || !/^3\.[01]\./.test(value.openapi)) {
    const said = isObject(value) ? (value.openapi ?? value.swagger) : undefined;
    throw new PindroError('document_unreadable', {
      why: `it is to say "openapi: 3.0.x" or "3.1.x"${said === undefined ? '' : `, not ${JSON.stringify(said)}`}`,
    });
  }
  const unsafe = findUnsafe(value);
  if (unsafe)
    throw new PindroError('document_unreadable', { why: `the value at ${unsafe.at} ${unsafe.why}` }, { at: unsafe.at });
  const references = new References(value);
  const info = isObject(value.info) ? value.info : {};
  const servers = (Array.isArray(value.servers) ? value.servers : []).filter(isObject);
  return {
    title: String(info.title ?? 'API'),
    version: String(info.version ?? ''),
    bases: servers.map((server) => serverAddress(server)).filter((address) => /^https?:\/\//.test(address)),
    security: securityOf(value, references),
    operations: operationsOf(value, references, wanted && new Set(wanted)),
  };
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

function operationsOf(
  document: JsonObject,
  references: References,
  wanted: ReadonlySet<string> | undefined,
): ApiOperation[] {
  const paths = isObject(document.paths) ? Object.entries(document.paths) : [];
  const operations = paths.flatMap(([path, item]) => {
    const followed = references.follow(item);
    const shared = isObject(followed) ? followed : {};
    return METHODS.filter((method) => isObject(shared[method])).map((method) =>
      operationOf(references, path, method, shared[method] as JsonObject, shared, wanted),
    );
  });
  if (operations.length <= MOST) return operations;
  throw new PindroError('document_unreadable', { why: `it has ${operations.length} operations; ${MOST} is the most` });
}

function operationOf(
  references: References,
  path: string,
  method: string,
  operation: JsonObject,
  item: JsonObject,
  wanted: ReadonlySet<string> | undefined,
): ApiOperation {
  const listed = [...list(item.parameters), ...list(operation.parameters)].map((one) => references.follow(one));
  const id = typeof operation.operationId === 'string' ? operation.operationId : `${method} ${path}`;
  const whole = wanted?.has(id) ?? true;
  const parameters = new Map<string, ApiParameter>();
  const odd: string[] = [];
  for (const one of listed.filter(isObject)) {
    const place = String(one.in);
    if (place === 'cookie') {
      if (one.required === true) odd.push(`it needs the cookie "${one.name}"`);
      continue;
    }
    // What the request itself brings along is not for the caller to say.
    if (!whole || (place === 'header' && /^(accept|content-type|authorization)$/i.test(String(one.name)))) continue;
    parameters.set(`${place} ${one.name}`, {
      name: String(one.name),
      in: place as ApiParameter['in'],
      required: one.required === true || place === 'path',
      description: String(one.description ?? ''),
      schema: modern(references.writeOut(isObject(one.schema) ? one.schema : {})),
    });
  }
  const media = mediaOf(operation, references);
  if (media === 'other') odd.push('its body is neither JSON nor a form');
  return {
    id,
    method: method.toUpperCase(),
    path,
    title: String(operation.summary ?? operation.operationId ?? `${method.toUpperCase()} ${path}`),
    description: String(operation.description ?? operation.summary ?? ''),
    parameters: [...parameters.values()],
    body: whole && media !== null && media !== 'other' ? bodyOf(media, references) : null,
    trouble: odd.length > 0 ? odd.join('; ') : null,
  };
}

interface Media {
  schema: Json | undefined;
  required: boolean;
  type: 'json' | 'form';
}

/** In which form an operation takes its body, where it takes one. */
function mediaOf(operation: JsonObject, references: References): Media | 'other' | null {
  const body = references.follow(operation.requestBody ?? null);
  if (!isObject(body)) return null;
  const content = isObject(body.content) ? body.content : {};
  const type =
    Object.keys(content).find((name) => /[/+]json\b/.test(name)) ??
    Object.keys(content).find((name) => name.includes('x-www-form-urlencoded'));
  if (!type) return 'other';
  const media = content[type];
  const schema = isObject(media) ? media.schema : undefined;
  return { schema, required: body.required === true, type: type.includes('json') ? 'json' : 'form' };
}

function bodyOf({ schema, ...rest }: Media, references: References): ApiOperation['body'] {
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
