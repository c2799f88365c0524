import { type JsonObject, publishedSchema } from '@pindro/core/browser';
import { z } from 'zod';
import { problem } from './resources.js';
import { type Route, routes } from './routes/index.js';

type Schema = Record<string, unknown>;

const schemaOf = (type: z.ZodType, io: 'input' | 'output'): Schema => {
  const { $schema: _, ...schema } = z.toJSONSchema(type, { io, unrepresentable: 'any' }) as Schema;
  return publishedSchema(schema as JsonObject) as Schema;
};

/**
 * The OpenAPI 3.1 document of the API, made from the routes.
 * @param url address of the service
 * @param version of the service
 * @returns the document
 */
export function openApi(url: string, version: string): Schema {
  const paths: Record<string, Record<string, Schema>> = {};
  for (const [name, route] of Object.entries(routes)) {
    const path = route.path.replace(/:(\w+)/g, '{$1}');
    (paths[path] ??= {})[route.method.toLowerCase()] = operation(name, route);
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Pindro', version, license: { name: 'Apache-2.0', identifier: 'Apache-2.0' } },
    servers: [{ url: `${url}/api/v1` }],
    security: [{ key: [] }],
    paths,
    components: {
      securitySchemes: { key: { type: 'http', scheme: 'bearer' } },
      responses: {
        Problem: {
          description: 'Problem details (RFC 9457)',
          content: { 'application/problem+json': { schema: schemaOf(problem, 'output') } },
        },
      },
    },
  };
}

function operation(name: string, route: Route): Schema {
  const inPath = [...route.path.matchAll(/:(\w+)/g)].map((match) => ({
    name: match[1],
    in: 'path',
    required: true,
    schema: { type: 'string' },
  }));
  const inQuery = Object.entries(route.query?.shape ?? {}).map(([key, type]) => ({
    name: key,
    in: 'query',
    required: false,
    schema: schemaOf(type as z.ZodType, 'input'),
  }));
  const media = route.stream ? 'text/event-stream' : 'application/json';
  return {
    operationId: name,
    summary: route.about,
    parameters: [...inPath, ...inQuery],
    ...(route.body && {
      requestBody: { required: true, content: { 'application/json': { schema: schemaOf(route.body, 'input') } } },
    }),
    responses: {
      200: { description: route.about, content: { [media]: { schema: schemaOf(route.answer, 'output') } } },
      '4XX': { $ref: '#/components/responses/Problem' },
      '5XX': { $ref: '#/components/responses/Problem' },
    },
  };
}
