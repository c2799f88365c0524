import { checkFlow, type FlowDocument, flowNameOf, flowOfOperation, mergeUpdate, readOpenApi } from '@pindro/core';
import { expect } from 'chai';

const DOCUMENT = `
openapi: 3.0.3
info: { title: Ridge Provisions, version: "1.0" }
servers: [{ url: "http://{host}/v1/", variables: { host: { default: ridge.test } } }]
paths:
  /stock/{item}:
    parameters:
      - { name: item, in: path, required: true, schema: { type: string } }
    get:
      operationId: getStock
      summary: Look one item up
      parameters:
        - { name: unit, in: query, description: In which unit, schema: { type: string, enum: [sack, bag], nullable: true } }
        - { name: X-Trace, in: header, schema: { type: string } }
        - { name: Accept, in: header, schema: { type: string } }
      responses: { 200: { description: ok } }
  /orders:
    post:
      operationId: placeOrder
      requestBody:
        required: true
        content: { application/json: { schema: { $ref: "#/components/schemas/Order" } } }
      responses: { 201: { description: ok } }
    put:
      summary: Send a picture
      requestBody: { content: { image/png: {} } }
      responses: { 200: { description: ok } }
  /notes:
    post:
      requestBody: { content: { application/json: { schema: { type: array, items: { type: string } } } } }
      responses: { 200: { description: ok } }
components:
  securitySchemes: { key: { type: apiKey, in: header, name: X-Wholesale-Key } }
  schemas:
    Order:
      allOf:
        - { type: object, required: [hut], properties: { hut: { type: string }, id: { type: string, readOnly: true } } }
        - { type: object, properties: { weight: { type: number, minimum: 0, exclusiveMinimum: true }, parent: { $ref: "#/components/schemas/Order" } } }
`;
const options = { name: 'ridge-x', base: 'http://ridge.test/v1', credential: 'wholesaler' };

describe('an OpenAPI document', () => {
  const read = readOpenApi(DOCUMENT);
  const operation = (id: string) => read.operations.find((one) => one.id === id)!;

  it('tells its title, addresses, how it wants to be called, and its operations', () => {
    expect(read).to.deep.include({ title: 'Ridge Provisions', version: '1.0', bases: ['http://ridge.test/v1'] });
    expect(read.security).to.deep.equal({
      words: 'a key in the header X-Wholesale-Key',
      header: 'X-Wholesale-Key',
      bearer: false,
    });
    expect(read.operations.map((one) => `${one.method} ${one.path}`)).to.deep.equal([
      'GET /stock/{item}',
      'PUT /orders',
      'POST /orders',
      'POST /notes',
    ]);
    const picture = flowOfOperation(operation('put /orders'), options);
    expect(picture.steps.request!.with).to.deep.include({
      binary: { base64: '${ input.body }', type: 'image/png' },
    });
  });

  it('makes a flow whose inputs are parameters, with their words, types and enums', () => {
    const made = flowOfOperation(operation('getStock'), options);
    expect(made.input).to.deep.equal({
      type: 'object',
      required: ['item'],
      properties: {
        item: { type: 'string' },
        unit: { type: ['string', 'null'], enum: ['sack', 'bag'], description: 'In which unit' },
        X_Trace: { type: 'string' },
      },
    });
    expect(made.steps.request!.with).to.deep.equal({
      url: 'http://ridge.test/v1/stock/${ urlPart(string(input.item)) }',
      query: { unit: '${ input.unit }' },
      headers: { 'X-Trace': '${ input.X_Trace }' },
      credential: 'wholesaler',
    });
    expect(checkFlow(made).mistakes).to.deep.equal([]);
  });

  it('makes inputs of the fields of a body, put together and without what only the server writes', () => {
    const made = flowOfOperation(operation('placeOrder'), options);
    expect(made.steps.request!.with).to.deep.include({
      method: 'POST',
      json: { hut: '${ input.hut }', weight: '${ input.weight }', parent: '${ input.parent }' },
    });
    expect(made.input).to.deep.include({ required: ['hut'] });
    expect(made.input!.properties).to.deep.nested.include({ 'weight.exclusiveMinimum': 0 });
    expect(checkFlow(made).mistakes).to.deep.equal([]);
    expect(flowOfOperation(operation('post /notes'), options).steps.request!.with).to.deep.include({
      json: '${ input.body }',
    });
  });

  it('names flows after the operation', () => {
    expect(flowNameOf('ridge', { id: 'getStockItem' })).to.equal('ridge-get-stock-item');
    expect(flowNameOf('ridge', { id: 'get /orders/{id}' })).to.equal('ridge-get-orders-id');
  });

  it('keeps what a flow can keep of schemas that come to millions when they are written out', () => {
    const level = (n: number) =>
      `    S${n}: { type: object, properties: { ${Array.from({ length: 40 }, (_, i) => `p${i}: { $ref: "#/components/schemas/S${n + 1}" }`).join(', ')} } }`;
    const text = `openapi: 3.1.0\npaths: { /x: { post: { operationId: x, requestBody: { content: { application/json: { schema: { $ref: "#/components/schemas/S0" } } } } } } }\ncomponents:\n  schemas:\n${Array.from({ length: 12 }, (_, n) => level(n)).join('\n')}\n    S12: { type: string }\n`;
    const { body } = readOpenApi(text).operations[0]!;
    expect(Object.keys(body!.schema.properties as object)).to.have.length(40);
    expect(JSON.stringify(body!.schema).length).to.be.lessThan(50_000);
    expect(readOpenApi(text, []).operations[0]).to.deep.include({ id: 'x', body: null });
  });

  it('takes fields for what they are, also where they are called as a keyword is', () => {
    const text =
      'openapi: 3.0.0\npaths: { /x: { post: { operationId: x, requestBody: { content: { application/json: { schema: { type: object, xml: { name: n }, properties: { example: { type: string }, xml: { type: string, nullable: true } } } } } } } } }';
    expect(readOpenApi(text).operations[0]!.body!.schema).to.deep.equal({
      type: 'object',
      properties: { example: { type: 'string' }, xml: { type: ['string', 'null'] } },
    });
  });

  for (const [what, text, why] of [
    ['is no OpenAPI', 'swagger: "2.0"', 'not "2.0"'],
    ['cannot be read', 'openapi: [', 'cannot be read'],
    [
      'refers to nothing',
      'openapi: 3.1.0\npaths: { /x: { get: { parameters: [{ $ref: "#/nowhere" }] } } }',
      '#/nowhere cannot be resolved',
    ],
    [
      'refers to itself',
      'openapi: 3.1.0\npaths: { /x: { get: { parameters: [{ $ref: "#/a" }] } } }\na: { $ref: "#/a" }',
      'cannot be resolved',
    ],
  ] as const)
    it(`is refused when it ${what}`, () => {
      expect(() => readOpenApi(text)).to.throw(why);
    });
});

describe('bringing a newer OpenAPI document into flows', () => {
  const made = {
    format: 'pindro/flow@1',
    name: 'x',
    title: 'Old',
    steps: { r: { kind: 'http', with: { url: 'http://a.test', query: { a: 1 } } } },
  } as unknown as FlowDocument;
  const now = {
    ...made,
    title: 'New',
    steps: { r: { kind: 'http', with: { url: 'http://b.test', query: { a: 1, b: 2 } } } },
  } as unknown as FlowDocument;

  it('takes over what changed there, and keeps what the builder changed', () => {
    const edited = {
      ...made,
      steps: { ...made.steps, more: { kind: 'text', with: { text: 'mine' } } },
    } as unknown as FlowDocument;
    const { document, conflicts, changes } = mergeUpdate(made, now, edited);
    expect(document).to.deep.equal({ ...now, steps: { r: now.steps.r, more: edited.steps.more } });
    expect(conflicts).to.deep.equal([]);
    expect(changes.map((change) => change.at)).to.have.members([
      '/title',
      '/steps/r/with/url',
      '/steps/r/with/query/b',
    ]);
  });

  it("leaves the builder's own edit where both changed the same place, and says so", () => {
    const edited = { ...made, title: 'Mine' } as FlowDocument;
    expect(mergeUpdate(made, now, edited)).to.deep.nested.include({ 'document.title': 'Mine', conflicts: ['/title'] });
    expect(mergeUpdate(made, made, edited)).to.deep.include({ document: edited, changes: [] });
  });
});
