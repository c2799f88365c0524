/** What the wholesaler says of its own API (OpenAPI 3.1). */
export function openApiDocument(url: string): object {
  const order = { $ref: '#/components/schemas/Order' };
  return {
    openapi: '3.1.0',
    info: { title: 'Ridge Provisions', version: '2.3.0', description: 'Stock and orders for mountain huts.' },
    servers: [{ url }],
    security: [{ key: [] }],
    paths: {
      '/stock': {
        get: {
          operationId: 'listStock',
          summary: 'List what is in stock',
          description: 'Lists items with how many are on hand, their price and weight. Filter by a part of the name.',
          parameters: [
            { name: 'item', in: 'query', description: 'A part of the name', schema: { type: 'string' } },
            { name: 'page', in: 'query', schema: { type: 'integer', minimum: 1, default: 1 } },
            { name: 'page_size', in: 'query', schema: { type: 'integer', minimum: 1, maximum: 50, default: 5 } },
          ],
          responses: {
            200: {
              description: 'One page of items; the header Link leads to the next one',
              content: {
                'application/json': {
                  schema: {
                    type: 'object',
                    properties: {
                      items: { type: 'array', items: { $ref: '#/components/schemas/Item' } },
                      page: { type: 'integer' },
                      total: { type: 'integer' },
                    },
                  },
                },
              },
            },
          },
        },
      },
      '/orders': {
        post: {
          operationId: 'placeOrder',
          summary: 'Place an order',
          description: 'Orders provisions for one hut, to be ready at the valley station on a day.',
          requestBody: {
            required: true,
            content: { 'application/json': { schema: { $ref: '#/components/schemas/NewOrder' } } },
          },
          responses: {
            201: { description: 'The order', content: { 'application/json': { schema: order } } },
            409: { description: 'Not enough on hand' },
          },
        },
      },
      '/orders/{id}': {
        get: {
          operationId: 'getOrder',
          summary: 'Look up an order',
          parameters: [
            { name: 'id', in: 'path', required: true, description: 'Number of the order', schema: { type: 'string' } },
          ],
          responses: { 200: { description: 'The order', content: { 'application/json': { schema: order } } } },
        },
      },
    },
    components: {
      securitySchemes: { key: { type: 'apiKey', in: 'header', name: 'X-Wholesale-Key' } },
      schemas: {
        Item: {
          type: 'object',
          properties: {
            item: { type: 'string' },
            unit: { type: 'string' },
            on_hand: { type: 'integer' },
            price: { type: 'number' },
            weight_kg: { type: 'number' },
          },
        },
        Line: {
          type: 'object',
          required: ['item', 'quantity'],
          properties: {
            item: { type: 'string', description: 'Name of the item' },
            quantity: { type: 'integer', minimum: 1, description: 'How many' },
          },
        },
        NewOrder: {
          type: 'object',
          required: ['hut', 'day', 'lines'],
          properties: {
            hut: { type: 'string', enum: ['kestrel', 'larch', 'stonewater'], description: 'For which hut' },
            day: { type: 'string', format: 'date', description: 'When it is to be ready' },
            lines: { type: 'array', minItems: 1, items: { $ref: '#/components/schemas/Line' } },
          },
        },
        Order: {
          type: 'object',
          properties: {
            id: { type: 'string' },
            hut: { type: 'string' },
            day: { type: 'string' },
            lines: { type: 'array', items: { $ref: '#/components/schemas/Line' } },
            weight_kg: { type: 'number' },
            price: { type: 'number' },
            state: { type: 'string', enum: ['accepted', 'packed'] },
          },
        },
      },
    },
  };
}
