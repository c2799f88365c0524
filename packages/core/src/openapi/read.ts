import { PindroError } from '../errors.js';
import { readSource } from '../flow/source.js';
import { findUnsafe, isObject, type Json, type JsonObject, type JsonSchema, pointerParts, valueAt } from '../json.js';

export interface ApiParameter {
  name: string;
  in: 'path' | 'query' | 'header';
  required: boolean;
  description: string;
  schema: JsonSchema;
}

/** One operation of an OpenAPI document, with every reference followed. */
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
/** References are followed so deep; a schema that refers to itself ends there as "anything". */
const DEPTH = 12;

/** Reads an OpenAPI document, 3.0 or 3.1, JSON or YAML. @throws document_unreadable with where it is wrong */
export function readOpenApi(text: string): ApiDescription {
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
  const info = isObject(value.info) ? value.info : {};
  const servers = (Array.isArray(value.servers) ? value.servers : []).filter(isObject);
  return {
    title: String(info.title ?? 'API'),
    version: String(info.version ?? ''),
    bases: servers.map((server) => serverAddress(server)).filter((address) => /^https?:\/\//.test(address)),
    security: securityOf(value),
    operations: operationsOf(value),
  };
}

/** An address in which the variables have their default values. */
function serverAddress(server: JsonObject): string {
  const variables = isObject(server.variables) ? server.variables : {};
  return String(server.url ?? '')
    .replaceAll(/\{(\w+)\}/g, (whole, name: string) => {
      const variable = variables[name];
      return isObject(variable) ? String(variable.default ?? whole) : whole;
    })
    .replace(/\/+$/, '');
}

function operationsOf(document: JsonObject): ApiOperation[] {
  const paths = isObject(document.paths) ? Object.entries(document.paths) : [];
  return paths.flatMap(([path, item]) => {
    const shared = isObject(item) ? (resolve(item, document) as JsonObject) : {};
    return METHODS.filter((method) => isObject(shared[method])).map((method) =>
      operationOf(document, path, method, shared[method] as JsonObject, shared),
    );
  });
}

function operationOf(
  document: JsonObject,
  path: string,
  method: string,
  operation: JsonObject,
  item: JsonObject,
): ApiOperation {
  const listed = [...list(item.parameters), ...list(operation.parameters)].map((one) => resolve(one, document));
  const parameters = new Map<string, ApiParameter>();
  const odd: string[] = [];
  for (const one of listed.filter(isObject)) {
    const place = String(one.in);
    if (place === 'cookie') {
      if (one.required === true) odd.push(`it needs the cookie "${one.name}"`);
      continue;
    }
    // What the request itself brings along is not for the caller to say.
    if (place === 'header' && /^(accept|content-type|authorization)$/i.test(String(one.name))) continue;
    parameters.set(`${place} ${one.name}`, {
      name: String(one.name),
      in: place as ApiParameter['in'],
      required: one.required === true || place === 'path',
      description: String(one.description ?? ''),
      schema: modern(expand(isObject(one.schema) ? one.schema : {}, document)),
    });
  }
  const body = bodyOf(operation, document);
  if (body === 'other') odd.push('its body is neither JSON nor a form');
  return {
    id: typeof operation.operationId === 'string' ? operation.operationId : `${method} ${path}`,
    method: method.toUpperCase(),
    path,
    title: String(operation.summary ?? operation.operationId ?? `${method.toUpperCase()} ${path}`),
    description: String(operation.description ?? operation.summary ?? ''),
    parameters: [...parameters.values()],
    body: body === 'other' ? null : body,
    trouble: odd.length > 0 ? odd.join('; ') : null,
  };
}

function bodyOf(operation: JsonObject, document: JsonObject): ApiOperation['body'] | 'other' {
  const body = resolve(operation.requestBody ?? null, document);
  if (!isObject(body)) return null;
  const content = isObject(body.content) ? body.content : {};
  const type =
    Object.keys(content).find((name) => /[/+]json\b/.test(name)) ??
    Object.keys(content).find((name) => name.includes('x-www-form-urlencoded'));
  if (!type) return 'other';
  const media = content[type];
  const schema = isObject(media) && isObject(media.schema) ? modern(expand(media.schema, document)) : {};
  return { schema: flattened(schema), required: body.required === true, type: type.includes('json') ? 'json' : 'form' };
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

function securityOf(document: JsonObject): ApiDescription['security'] {
  const components = isObject(document.components) ? document.components : {};
  const schemes = isObject(components.securitySchemes) ? Object.values(components.securitySchemes) : [];
  for (const scheme of schemes.map((one) => resolve(one, document)).filter(isObject)) {
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

/** What a reference within the document leads to. @throws document_unreadable */
function resolve(value: Json, document: JsonObject): Json {
  for (let hops = 0; isObject(value) && typeof value.$ref === 'string'; hops++) {
    const target = value.$ref.startsWith('#') ? valueAt(document, pointerParts(value.$ref.slice(1))) : undefined;
    if (target === undefined || hops > DEPTH)
      throw new PindroError('document_unreadable', { why: `the reference ${value.$ref} leads nowhere within it` });
    value = target as Json;
  }
  return value;
}

/** A schema with its references written out. */
function expand(value: Json, document: JsonObject, depth = 0): JsonSchema {
  if (depth > DEPTH) return {};
  const walk = (inner: Json): Json => {
    if (Array.isArray(inner)) return inner.map(walk);
    if (!isObject(inner)) return inner;
    return expand(inner, document, depth + 1);
  };
  const here = resolve(value, document);
  return isObject(here) ? Object.fromEntries(Object.entries(here).map(([name, inner]) => [name, walk(inner)])) : {};
}

/** A schema of OpenAPI 3.0 as JSON Schema 2020-12; one of 3.1 is that already. */
function modern(schema: JsonSchema): JsonSchema {
  const walk = (value: Json): Json => {
    if (Array.isArray(value)) return value.map(walk);
    if (!isObject(value)) return value;
    const { nullable, example, xml: _xml, discriminator: _kind, externalDocs: _docs, ...rest } = value;
    const result: JsonObject = Object.fromEntries(Object.entries(rest).map(([name, inner]) => [name, walk(inner)]));
    if (nullable === true && typeof result.type === 'string') result.type = [result.type, 'null'];
    if (example !== undefined && !isObject(example)) result.examples = [example];
    for (const [exclusive, bound] of [
      ['exclusiveMinimum', 'minimum'],
      ['exclusiveMaximum', 'maximum'],
    ] as const) {
      if (typeof result[exclusive] !== 'boolean') continue;
      if (result[exclusive] === true && result[bound] !== undefined) {
        result[exclusive] = result[bound]!;
        delete result[bound];
      } else delete result[exclusive];
    }
    return result;
  };
  return walk(schema) as JsonSchema;
}
