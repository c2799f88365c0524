import { FLOW_FORMAT, type FlowDocument } from '../flow/document.js';
import { isObject, type Json, type JsonObject, type JsonSchema } from '../json/json.js';
import { nameFrom } from '../text/naming.js';
import type { ApiBody, ApiOperation, ApiParameter } from './read.js';

/**
 * Returns the name of a flow created from an operation: `listStock` of "ridge" becomes `ridge-list-stock`.
 * @param prefix name of the API
 * @param operation of the API
 * @returns a valid name of a flow
 */
export function flowNameOf(prefix: string, operation: Pick<ApiOperation, 'id'>): string {
  return nameFrom(`${prefix}-${operation.id.replaceAll(/([a-z0-9])([A-Z])/g, '$1-$2')}`);
}

/**
 * Returns a flow of one web request for an operation: its parameters and the fields of its body are the inputs.
 * @param operation as {@link readOpenApi} returns it, with its parameters
 * @param options name of the flow, address of the API, and credential to send
 * @returns a document in the format `pindro/flow@1`
 */
export function flowOfOperation(
  operation: ApiOperation,
  { name, base, credential }: { name: string; base: string; credential: string | null },
): FlowDocument {
  const inputs = new Inputs();
  const parameters = operation.parameters.map((parameter) => ({
    ...parameter,
    input: inputs.add(
      parameter.name,
      parameter.in,
      described(parameter.schema, parameter.description),
      parameter.required,
    ),
  }));
  const styles: Record<string, JsonObject> = {};
  const section = (place: ApiParameter['in'], field: string): JsonObject => {
    const own = parameters.filter((one) => one.in === place && (place !== 'path' || isCompound(one)));
    for (const { name: key, style } of own) if (style) (styles[field] ??= {})[key] = style;
    if (own.length === 0) return {};
    return { [field]: Object.fromEntries(own.map((one) => [one.name, `\${ input.${one.input} }`])) };
  };
  const config: JsonObject = {
    ...(operation.method !== 'GET' && { method: operation.method }),
    url: (operation.base ?? base) + pathOf(operation.path, parameters),
    ...section('path', 'path'),
    ...section('query', 'query'),
    ...section('header', 'headers'),
    ...section('cookie', 'cookies'),
  };
  const body = operation.body ? bodyConfig(operation.body, inputs, config) : {};
  if (operation.body?.as === 'form' && Object.keys(operation.body.styles).length > 0)
    styles.form = operation.body.styles;
  return {
    format: FLOW_FORMAT,
    name,
    title: operation.title,
    ...(operation.description && { description: operation.description }),
    input: {
      type: 'object',
      ...(inputs.required.length > 0 && { required: inputs.required }),
      properties: inputs.properties,
    },
    steps: {
      request: {
        kind: 'http',
        with: {
          ...config,
          ...body,
          ...(Object.keys(styles).length > 0 && { styles }),
          ...(credential && { credential }),
        },
      },
    },
    result: '${ steps.request.body }',
  };
}

const inputName = (name: string) => name.replaceAll(/[^A-Za-z0-9_]/g, '_').replace(/^(\d|$)/, '_$1');

/** The inputs of a flow, each with a name of its own. */
class Inputs {
  readonly properties: JsonObject = {};
  readonly required: string[] = [];

  /** @param from where it belongs, which goes before a name that is taken @returns its name */
  add(name: string, from: string, schema: JsonSchema, required: boolean): string {
    const plain = inputName(name);
    let free = Object.hasOwn(this.properties, plain) ? `${from}_${plain}` : plain;
    for (let count = 2; Object.hasOwn(this.properties, free); count++) free = `${from}_${plain}_${count}`;
    this.properties[free] = schema;
    if (required) this.required.push(free);
    return free;
  }
}

type Parameter = ApiParameter & { input: string };

/** Whether it may be a list or an object, or is written in a style of its own. */
const isCompound = ({ schema, style }: Pick<ApiParameter, 'schema' | 'style'>): boolean =>
  ![schema.type ?? []]
    .flat()
    .every((type) => ['string', 'number', 'integer', 'boolean', 'null'].includes(String(type))) ||
  schema.type === undefined ||
  (style?.style !== undefined && style.style !== 'simple');

/** The path, in which a text or number is filled in right away, and the step fills in lists and objects. */
const pathOf = (path: string, parameters: Parameter[]) =>
  path.replaceAll(/\{([^{}]+)\}/g, (whole, name: string) => {
    const parameter = parameters.find((one) => one.in === 'path' && one.name === name);
    return parameter && !isCompound(parameter) ? `\${ urlPart(string(input.${parameter.input})) }` : whole;
  });

/** The body of the request, whose fields become inputs; what is no object is one input. */
function bodyConfig(body: ApiBody, inputs: Inputs, config: JsonObject): JsonObject {
  const type = body.as === 'json' && body.media === 'application/json' ? null : body.media;
  const headers = (): JsonObject =>
    type === null ? {} : { headers: { ...(config.headers as JsonObject | undefined), 'content-type': type } };
  const whole = (schema: JsonSchema) => `\${ input.${inputs.add('body', 'whole', schema, body.required)} }`;
  if (body.as === 'text') return { text: whole({ ...body.schema, type: 'string' }), ...headers() };
  if (body.as === 'binary') return { binary: { base64: whole(BYTES), type: body.media } };
  const fields = fieldsOfBody(body);
  const isForm = body.as === 'form' || body.as === 'multipart';
  if (fields.length === 0)
    return { [body.as]: whole(isForm ? { ...body.schema, type: 'object' } : body.schema), ...(!isForm && headers()) };
  const sent = fields.map(({ name, schema, needed }): [string, Json] => {
    const taken = body.as === 'multipart' ? withFiles(schema) : schema;
    return [name, `\${ input.${inputs.add(name, 'body', taken, needed)} }`];
  });
  return { [body.as]: Object.fromEntries(sent), ...(!isForm && headers()) };
}

const BYTES: JsonSchema = { type: 'string', contentEncoding: 'base64', description: 'Bytes, in base64' };
/** A file as a part of a form takes it. */
const FILE: JsonSchema = {
  type: 'object',
  required: ['file'],
  properties: {
    file: { type: 'string', description: 'Name of the file' },
    base64: { type: 'string', description: 'Its content, in base64' },
    text: { type: 'string', description: 'Or its content, as text' },
    type: { type: 'string', description: 'Media type, such as image/png' },
  },
};

/** A schema of a part, in which bytes are a file. */
function withFiles(schema: JsonSchema): JsonSchema {
  const isFile =
    schema.format === 'binary' ||
    schema.format === 'base64' ||
    schema.format === 'byte' ||
    'contentMediaType' in schema;
  if (isFile) return { ...FILE, ...(schema.description !== undefined && { description: schema.description }) };
  if (schema.type !== 'array' || !isObject(schema.items)) return schema;
  return { ...schema, items: withFiles(schema.items) };
}

function fieldsOfBody(body: ApiBody): { name: string; schema: JsonSchema; needed: boolean }[] {
  if (!isObject(body.schema.properties)) return [];
  const required = Array.isArray(body.schema.required) ? body.schema.required : [];
  return Object.entries(body.schema.properties)
    .filter(([, schema]) => isObject(schema) && schema.readOnly !== true)
    .map(([name, schema]) => ({
      name,
      schema: schema as JsonSchema,
      needed: body.required && required.includes(name),
    }));
}

const described = (schema: JsonSchema, description: string): JsonSchema =>
  description && schema.description === undefined ? { ...schema, description } : schema;
