import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { checkFlow, flowJsonSchema } from '@pindro/core';
import { createConfig, lintFromString } from '@redocly/openapi-core';
import { Validator } from '@seriousme/openapi-schema-validator';
import { Ajv2020, type ValidateFunction } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { expect } from 'chai';
import openapiTypescript, { astToString } from 'openapi-typescript';
import { parse } from 'yaml';
import { furnish, type Workspace, workspace } from '../support/workspace.js';

const root = fileURLToPath(new URL('../../..', import.meta.url));
/** Unknown keywords, ignored keywords and missing types are errors. */
const ajv = () => addFormats.default(new Ajv2020({ strict: true, strictRequired: false, allErrors: true }));
const failures = (validate: ValidateFunction, value: unknown) =>
  validate(value) ? [] : validate.errors!.map(({ instancePath, message }) => `${instancePath} ${message}`);

interface Operation {
  parameters?: { schema: object }[];
  requestBody?: { content: Record<string, { schema: object }> };
  responses: Record<string, { content?: Record<string, { schema: object }> }>;
}
const schemasOf = ({ parameters = [], requestBody, responses }: Operation): object[] => [
  ...parameters.map(({ schema }) => schema),
  ...[requestBody, ...Object.values(responses)].flatMap((one) =>
    Object.values(one?.content ?? {}).map(({ schema }) => schema),
  ),
];

describe('published schemas', () => {
  let house: Workspace;
  before(async () => {
    house = await workspace();
    furnish(house.service);
  });
  after(() => house.close());
  const get = async (path: string) =>
    (await fetch(`${house.service.url}${path}`, { headers: { authorization: `Bearer ${house.apiKey}` } })).json();

  it('of the flow document takes every flow of the demo, and refuses what the check refuses for its form', async () => {
    const validate = ajv().compile((await get('/api/v1/schemas/flow.json')) as object);
    const folder = join(root, 'packages/cli/demo/flows');
    for (const file of readdirSync(folder)) {
      const document = parse(
        readFileSync(join(folder, file), 'utf8').replaceAll('{{WHOLESALER}}', 'http://wholesaler.test'),
      );
      expect(failures(validate, document), file).to.deep.equal([]);
    }
    const wrong: [string, object][] = [
      ['a limit that is none', { kind: 'table', with: { table: 'a', do: 'find', limit: 'ten' } }],
      ['a kind that is none', { kind: 'tabel' }],
      ['an option that is none', { kind: 'text', with: { text: 'a', colour: 'red' } }],
      ['an address that is a number', { kind: 'http', with: { url: 8080 } }],
      ['a missing part', { kind: 'mail', with: { to: 'a@b' } }],
      ['a step inside', { kind: 'each', with: { list: [1], steps: { b: { kind: 'nothing' } } } }],
    ];
    for (const [what, step] of wrong) {
      const document = { format: 'pindro/flow@1', name: 'a', steps: { a: step } };
      expect(failures(validate, document), what).to.have.length.above(0);
      expect(checkFlow(document as never).mistakes, what).to.have.length.above(0);
    }
    const fine = { kind: 'table', with: { table: 'a', do: 'find', limit: '${ input.n }', descending: '${ input.d }' } };
    expect(failures(validate, { format: 'pindro/flow@1', name: 'a', steps: { a: fine } })).to.deep.equal([]);
  });

  it('let an editor complete: each kind with its words, every reference to be found', () => {
    const schema = flowJsonSchema();
    const text = JSON.stringify(schema);
    const { $defs } = schema as { $defs: Record<string, object> };
    for (const [, name] of text.matchAll(/"#\/\$defs\/([^"]+)"/g)) expect($defs, name).to.have.property(name!);
    expect(text).to.contain('"title":"Call a tool"');
  });

  it('of the other files take what a workspace writes', async () => {
    const { files } = await house.api.exportWorkspace({ query: { rows: 'true', people: 'true' } });
    for (const [path, text] of Object.entries(files)) {
      const name = dirname(path) === '.' ? path.replace('.yaml', '') : dirname(path);
      if (name === 'flows') continue;
      const schema = await get(`/api/v1/schemas/${name === 'endpoints' ? 'endpoint' : name}.json`);
      expect(failures(ajv().compile(schema as object), parse(text)), path).to.deep.equal([]);
    }
  });

  it('of the API pass a validator, and give a typed client that compiles', async function () {
    this.timeout(60_000);
    const document = await get('/api/v1/openapi.json');
    expect(await new Validator().validate(document)).to.deep.include({ valid: true });
    const config = await createConfig({ extends: ['recommended-strict'] });
    const source = JSON.stringify(document);
    const problems = await lintFromString({ source, config, absoluteRef: join(house.data, 'openapi.json') });
    const told = problems.map(({ ruleId, message, location }) => `${ruleId} ${message} ${location[0]?.pointer}`);
    expect(told).to.deep.equal([]);
    const { paths } = document as { paths: Record<string, Record<string, Operation>> };
    for (const [path, operations] of Object.entries(paths))
      for (const operation of Object.values(operations))
        for (const schema of schemasOf(operation)) expect(() => ajv().compile(schema), path).not.to.throw();
    const types = join(house.data, 'api.ts');
    writeFileSync(types, astToString(await openapiTypescript(document)));
    const client = join(house.data, 'client.ts');
    writeFileSync(
      client,
      `import type { paths } from './api.js';
type Flows = paths['/flows']['get']['responses']['200']['content']['application/json'];
export const names = (flows: Flows): string[] => flows.items.map((flow) => flow.name);
type Body = NonNullable<paths['/flows/{name}/run']['post']['requestBody']>['content']['application/json'];
export const body: Body = { input: { hut: 'larch' }, stage: 'live' };
`,
    );
    const tsc = createRequire(join(root, 'package.json')).resolve('typescript/bin/tsc');
    const options = ['--noEmit', '--strict', '--skipLibCheck', '--target', 'es2022', '--module', 'nodenext'];
    execFileSync(process.execPath, [tsc, '--ignoreConfig', ...options, client], { stdio: 'pipe' });
  });
});
