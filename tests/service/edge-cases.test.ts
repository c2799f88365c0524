import { type Route, routes } from '@pindro/contract';
import { expect } from 'chai';
import { callTool, connect, furnish, type Workspace, workspace } from '../support/workspace.js';

const NAMES = ['constructor', '__proto__', 'toString', 'hasOwnProperty', 'prototype'];
const ODD = [...NAMES, 'a%00b', '%F0%9F%8F%94', '-1', '1e99', '9'.repeat(400), '..', '%2e%2e%2f', "' OR 1=1 --"];

describe('odd names and values', () => {
  let house: Workspace;
  let keys: { ines: string; tobias: string };
  before(async () => {
    house = await workspace();
    keys = furnish(house.service);
  });
  after(() => house.close());

  const send = async (route: Pick<Route, 'method'>, path: string, body?: string) => {
    const response = await fetch(`${house.service.url}/api/v1${path}`, {
      method: route.method,
      headers: { authorization: `Bearer ${house.apiKey}`, 'content-type': 'application/json' },
      ...(body !== undefined && route.method !== 'GET' && { body }),
    });
    const streams = response.headers.get('content-type')?.startsWith('text/event-stream') ?? false;
    if (streams) {
      await response.body?.cancel();
      return { status: response.status, text: 'a stream' };
    }
    return { status: response.status, text: await response.text() };
  };

  it('get an answer of their own at every route, never one of nobody’s making', async function () {
    // Some ten thousand requests: every route, each odd name, each odd body.
    this.timeout(120_000);
    const bodies = [
      '{}',
      '[]',
      'null',
      '"text"',
      '{"__proto__":{"a":1},"constructor":{"prototype":{}}}',
      '{"name":{"a":1},"input":[[[[]]]],"settings":{"kind":"constructor"},"document":{"steps":{"constructor":{"kind":"__proto__"}}},"files":{"__proto__":"x"}}',
    ];
    for (const [name, route] of Object.entries(routes) as [string, Route][]) {
      if (name === 'signOut') continue;
      const asked = Object.keys(route.query?.shape ?? {}).map((key, index) => `${key}=${NAMES[index % NAMES.length]}`);
      const query = asked.length > 0 ? `?${asked.join('&')}` : '';
      for (const odd of route.path.includes(':') ? ODD : ['']) {
        const path = route.path.replaceAll(/:\w+/g, odd) + query;
        for (const body of route.method === 'GET' ? bodies.slice(0, 1) : bodies) {
          const { status, text } = await send(route, path, body);
          expect(status, `${name} ${path} ${body}: ${text.slice(0, 300)}`).to.be.below(500);
        }
      }
    }
    expect(({} as Record<string, unknown>).a).to.equal(undefined);
    expect((await house.api.status()).name).to.equal('pindro');
  });

  it('are refused before a stream begins, so that the connection is good for the next request', async () => {
    for (const path of ['/flows/nothing/run/stream', '/servers/nothing/chat', '/flows/nothing/try']) {
      const { status, text } = await send({ method: 'POST' }, path, '{"input":{},"message":"hello"}');
      expect(status, `${path} ${text}`).to.be.within(400, 422);
      expect(JSON.parse(text), path).to.have.property('hint');
    }
    expect((await send({ method: 'GET' }, '/status')).status).to.equal(200);
  });

  it('are names like any other for inputs, steps, tables, tools and content', async () => {
    const { service } = house;
    const properties = NAMES.map((name) => `${JSON.stringify(name)}: { type: string }`).join(', ');
    service.flows.drafts.save(
      `format: pindro/flow@1\nname: odd\ninput: { type: object, properties: { ${properties} }, additionalProperties: false }\nsteps:\n  constructor: { kind: shape, with: { value: "\${ input }" } }\n  skipped: { kind: text, off: true, with: { text: x } }\nresult: { said: "\${ steps.constructor.value }" }\n`,
    );
    service.flows.revisions.publish('odd');
    service.endpoints.expose('huts', 'constructor', { flow: 'odd' });
    service.tables.definitions.create(
      'constructor',
      { prototype: 'text', constructor: 'text' } as never,
      'constructor',
    );
    service.flows.drafts.save(
      'format: pindro/flow@1\nname: keeps\nsteps:\n  add: { kind: table, with: { table: constructor, do: add, row: { prototype: here } } }\nresult: { row: "${ steps.add.row }", type: "${ has(steps.add.row.missing) }" }\n',
    );
    const client = await connect(service, keys.ines);
    for (const args of [{ constructor: 'a', toString: 'b', prototype: 'c' }, {}]) {
      const answer = await callTool(client, 'constructor', args);
      expect(answer.isError, JSON.stringify(answer)).to.not.equal(true);
      expect(answer.structuredContent).to.deep.equal({ said: args });
    }
    const raw = await fetch(`${service.url}/mcp/huts`, {
      method: 'POST',
      headers: { authorization: `Bearer ${keys.ines}`, 'content-type': 'application/json' },
      body: '{"jsonrpc":"2.0","id":1,"method":"tools/call","params":{"name":"constructor","arguments":{"__proto__":"p"}}}',
    });
    const told = (await raw.json()) as { result: { isError?: boolean; content: { text: string }[] } };
    // Compiled schemas know no such name, whatever is declared: it is refused, and nobody's prototype is another.
    expect(told.result.content[0]!.text).to.contain('"__proto__" is not an argument here');
    for (const missing of ['toString', 'hasOwnProperty', '__proto__'])
      expect(await callTool(client, missing, {}).catch((error: Error) => error.message)).to.contain('There is no tool');
    await client.close();
    const kept = await house.api.runFlow({ name: 'keeps', body: {} });
    expect(kept.result, JSON.stringify(kept.error)).to.deep.equal({
      row: { id: 1, prototype: 'here', constructor: 'owner' },
      type: false,
    });
    service.flows.drafts.save(
      'format: pindro/flow@1\nname: blocks\ninput: { type: object }\nsteps:\n  say: { kind: shape, with: { value: "${ input }" } }\nresult: { content: ["${ steps.say.value }"] }\n',
    );
    service.flows.revisions.publish('blocks');
    service.endpoints.expose('main', 'blocks', { flow: 'blocks' });
    const { key } = service.keys.issue({
      name: 'k',
      attributes: {},
      stage: 'live',
      endpoints: ['main'],
      manage: false,
    });
    const other = await connect(service, key, 'main');
    for (const type of NAMES) {
      const answer = await callTool(other, 'blocks', { type });
      expect(answer.content[0]!.type, type).to.equal('text');
    }
    await other.close();
  });

  it('of a script come to a clear end: null thrown, long lists, numbers by the hundred thousand', async () => {
    const run = async (steps: string, result: string, input = '') => {
      house.service.flows.drafts.save(`format: pindro/flow@1\nname: s\n${input}steps:\n${steps}\nresult: ${result}\n`);
      return house.api.runFlow({ name: 's', body: {} });
    };
    for (const thrown of ['null', 'undefined', '0', '{}', '"words"', 'Symbol("x")'])
      expect(
        (await run(`  a: { kind: script, with: { code: ${JSON.stringify(`throw ${thrown};`)} } }`, 'x')).error,
        thrown,
      ).to.include({ code: 'script_failed' });
    const many = await run(
      '  a: { kind: script, with: { code: "return Array.from({ length: 300000 }, (_, i) => i)" } }',
      '"${ [steps.a.value.min(), steps.a.value.max()] }"',
    );
    expect(many.result, JSON.stringify(many.error)).to.deep.equal([0, 299999]);
  });
});
