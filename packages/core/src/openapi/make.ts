import { FLOW_FORMAT, type FlowDocument } from '../flow/document.js';
import { isObject, type Json, type JsonObject, type JsonSchema } from '../json.js';
import { nameFrom } from '../naming.js';
import type { ApiOperation, ApiParameter } from './read.js';

/** The name a flow made of an operation gets: `listStock` of "ridge" becomes `ridge-list-stock`. */
export function flowNameOf(prefix: string, operation: Pick<ApiOperation, 'id'>): string {
  return nameFrom(`${prefix}-${operation.id.replaceAll(/([a-z0-9])([A-Z])/g, '$1-$2')}`);
}

/** A flow of one web request out of an operation: its parameters and the fields of its body are the inputs. */
export function flowOfOperation(
  operation: ApiOperation,
  { name, base, credential }: { name: string; base: string; credential: string | null },
): FlowDocument {
  const bodyFields = fieldsOfBody(operation);
  const taken = new Set(operation.parameters.map((parameter) => inputName(parameter.name)));
  const properties: JsonObject = {};
  const required: string[] = [];
  for (const parameter of operation.parameters) {
    properties[inputName(parameter.name)] = described(parameter.schema, parameter.description);
    if (parameter.required) required.push(inputName(parameter.name));
  }
  const body: JsonObject = {};
  for (const { name: field, schema, needed } of bodyFields) {
    const input = taken.has(inputName(field)) ? `body_${inputName(field)}` : inputName(field);
    properties[input] = schema;
    body[field] = `\${ input.${input} }`;
    if (needed) required.push(input);
  }
  const whole = operation.body !== null && bodyFields.length === 0;
  if (whole) {
    properties.body = operation.body!.schema;
    if (operation.body!.required) required.push('body');
  }
  const sent: Json | undefined = whole ? '${ input.body }' : bodyFields.length > 0 ? body : undefined;
  return {
    format: FLOW_FORMAT,
    name,
    title: operation.title,
    ...(operation.description && { description: operation.description }),
    input: { type: 'object', ...(required.length > 0 && { required }), properties },
    steps: {
      request: {
        kind: 'http',
        with: {
          ...(operation.method !== 'GET' && { method: operation.method }),
          url: base + pathOf(operation),
          ...section('query', operation.parameters),
          ...section('headers', operation.parameters),
          ...(sent !== undefined && { [operation.body!.type]: sent }),
          ...(credential && { credential }),
        },
      },
    },
    result: '${ steps.request.body }',
  };
}

const inputName = (name: string) => name.replaceAll(/[^A-Za-z0-9_]/g, '_').replace(/^(\d)/, '_$1');

function pathOf({ path, parameters }: ApiOperation): string {
  return path.replaceAll(/\{([^{}]+)\}/g, (whole, name: string) =>
    parameters.some((parameter) => parameter.in === 'path' && parameter.name === name)
      ? `\${ urlPart(string(input.${inputName(name)})) }`
      : whole,
  );
}

function section(name: 'query' | 'headers', parameters: ApiParameter[]): JsonObject {
  const place = name === 'query' ? 'query' : 'header';
  const own = parameters.filter((parameter) => parameter.in === place);
  if (own.length === 0) return {};
  return {
    [name]: Object.fromEntries(own.map((parameter) => [parameter.name, `\${ input.${inputName(parameter.name)} }`])),
  };
}

function fieldsOfBody({ body }: ApiOperation): { name: string; schema: JsonSchema; needed: boolean }[] {
  if (!body || !isObject(body.schema.properties)) return [];
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
