import { createServer } from 'node:http';
import { type AddressInfo, connect as connectSocket, type Socket } from 'node:net';
import { expect } from 'chai';
import { patience } from '../support/patience.js';
import { callTool, connect, furnish, type Workspace, workspace } from '../support/workspace.js';

describe('an endpoint under attack', () => {
  let house: Workspace;
  let keys: { ines: string; tobias: string };
  beforeEach(async () => {
    house = await workspace();
    keys = furnish(house.service);
  });
  afterEach(() => house.close());
  const port = () => Number(new URL(house.service.url).port);
  const raw = (text: string) =>
    new Promise<string>((resolve, reject) => {
      let answer = '';
      const socket = connectSocket(port(), '127.0.0.1', () => socket.write(text));
      socket.on('data', (piece) => {
        answer += piece;
      });
      socket.on('close', () => resolve(answer));
      socket.on('error', reject);
      setTimeout(() => socket.destroy(), 1500);
    });
  const statusOf = (answer: string) => Number(/^HTTP\/1\.1 (\d+)/.exec(answer)?.[1] ?? 0);

  it('answers others while a thousand connections say nothing', async () => {
    const sockets = await Promise.all(
      Array.from(
        { length: 1000 },
        () =>
          new Promise<Socket>((resolve, reject) => {
            const socket = connectSocket(port(), '127.0.0.1', () => resolve(socket)).on('error', reject);
          }),
      ),
    );
    const client = await connect(house.service, keys.ines);
    const start = performance.now();
    const answer = await callTool(client, 'reserve_bunks', { hut: 'larch', night: '2027-02-14', party: 1 });
    expect(answer.isError).to.not.equal(true);
    expect(performance.now() - start).to.be.below(patience(2000));
    for (const socket of sockets) socket.destroy();
    await client.close();
  });

  it('lets nobody in by tricks with paths, hosts and headers', async () => {
    const paths = [
      '/mcp/..%2f..%2fetc%2fpasswd',
      '/mcp/%00',
      '/mcp/%',
      '/mcp/../api/v1/keys',
      '/mcp//huts',
      '/mcp/huts/',
      '/mcp/huts%2fsse',
      '/mcp/HUTS',
      '/mcp/__proto__',
      '/mcp/constructor',
      '/mcp/huts/sse/more',
      `/mcp/${'x'.repeat(5000)}`,
    ];
    for (const path of paths) {
      const answer = await raw(
        `POST ${path} HTTP/1.1\r\nHost: localhost:${port()}\r\nContent-Type: application/json\r\nContent-Length: 2\r\nConnection: close\r\n\r\n{}`,
      );
      expect(statusOf(answer), path).to.be.within(400, 431);
      expect(answer, path).to.not.contain('"reserve_bunks"');
    }
    const headers = [
      'Host: evil.example',
      `Host: localhost:${port()}\r\nOrigin: http://evil.example`,
      `Host: localhost:${port()}\r\nAuthorization: Bearer ${keys.ines} extra`,
      `Host: localhost:${port()}\r\nAuthorization: ${keys.ines}`,
      `Host: localhost:${port()}\r\nAuthorization: Bearer ${keys.ines}\r\nMcp-Session-Id: ../../x`,
    ];
    for (const header of headers) {
      const body = '{"jsonrpc":"2.0","id":1,"method":"tools/list"}';
      const answer = await raw(
        `POST /mcp/huts HTTP/1.1\r\n${header}\r\nContent-Type: application/json\r\nContent-Length: ${body.length}\r\nConnection: close\r\n\r\n${body}`,
      );
      expect(statusOf(answer), header).to.be.within(400, 431);
      expect(answer, header).to.match(/"error"|"code"/);
    }
  });

  it('does not send a result that would fill a client, and says what to do', async () => {
    const times = (count: number, from: string) => `"${`\${ steps.${from}.text }`.repeat(count)}"`;
    house.service.flows.drafts.save(`
format: pindro/flow@1
name: flood
steps:
  a: { kind: text, with: { text: "${'x'.repeat(4200)}" } }
  b: { kind: text, after: [a], with: { text: ${times(8, 'a')} } }
  c: { kind: text, after: [b], with: { text: ${times(8, 'b')} } }
  d: { kind: text, after: [c], with: { text: ${times(8, 'c')} } }
  e: { kind: text, after: [d], with: { text: ${times(4, 'd')} } }
result: "\${ steps.e.text }"
`);
    house.service.flows.revisions.publish('flood');
    await house.api.addTools({ name: 'huts', body: { tools: { flood: { flow: 'flood' } } } });
    const client = await connect(house.service, keys.ines);
    const answer = await callTool(client, 'flood', {});
    expect(answer.isError).to.equal(true);
    expect(answer.content[0]!.text).to.match(/8 MiB[\s\S]*Request less/);
    await client.close();
  });

  it('survives what is nested a hundred thousand levels deep, wherever it comes in', async () => {
    const deep = (levels: number) => `${'{"a":'.repeat(levels)}1${'}'.repeat(levels)}`;
    const outside = createServer((_request, response) => {
      response.writeHead(200, { 'content-type': 'application/json' }).end(deep(100_000));
    });
    await new Promise<void>((resolve) => outside.listen(0, '127.0.0.1', resolve));
    const { port: at } = outside.address() as AddressInfo;
    for (const flow of [
      'name: anything\ninput: { type: object }\nsteps: { say: { kind: shape, with: { value: "${ input }" } } }\n',
      `name: fetches\nsteps: { get: { kind: http, with: { url: "http://127.0.0.1:${at}/" } } }\nresult: "\${ steps.get.body }"\n`,
    ]) {
      const { name } = house.service.flows.drafts.save(`format: pindro/flow@1\n${flow}`);
      house.service.flows.revisions.publish(name);
      await house.api.addTools({ name: 'huts', body: { tools: { [name]: { flow: name } } } });
    }
    await house.api.createEntry({
      body: { flow: 'anything', path: 'deep', settings: { kind: 'hook', guard: 'open' } },
    });
    const call = async (tool: string, args: string) => {
      const response = await fetch(`${house.service.url}/mcp/huts`, {
        method: 'POST',
        headers: { authorization: `Bearer ${keys.ines}`, 'content-type': 'application/json' },
        body: `{"jsonrpc":"2.0","id":1,"method":"tools/call","params":{"name":"${tool}","arguments":${args}}}`,
      });
      return response.text();
    };
    for (const levels of [100, 10_000, 100_000])
      for (const tool of ['anything', 'reserve_bunks'])
        expect(await call(tool, deep(levels)), `${tool} ${levels}`)
          .to.contain('"isError":true')
          .and.not.contain('call stack');
    expect(await call('fetches', '{}')).to.contain('"isError":true');
    const hook = await fetch(`${house.service.url}/hooks/deep`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: deep(100_000),
    });
    expect(hook.status).to.be.within(400, 499);
    const api = await fetch(`${house.service.url}/api/v1/flows/check`, {
      method: 'POST',
      headers: { authorization: `Bearer ${house.apiKey}`, 'content-type': 'application/json' },
      body: `{"document":${deep(100_000)}}`,
    });
    expect(api.status).to.be.within(400, 499);
    expect((await house.api.listRuns({ query: { flow: 'anything', limit: 1 } })).items[0]).to.include({
      state: 'failed',
    });
    expect(await call('bunk_availability', '{}'), 'and continues').to.contain('There is no tool');
    outside.close();
  });

  it('takes no value for what the builder set, however it is sent', async () => {
    await house.api.describeTool({
      name: 'huts',
      tool: 'reserve_bunks',
      body: { arguments: { hut: { set: '${ caller.hut }' } } },
    });
    const client = await connect(house.service, keys.tobias);
    for (const args of [
      { hut: 'kestrel', night: '2027-02-14', party: 1 },
      { hut: 'larch', night: '2027-02-14', party: 1 },
      { night: '2027-02-14', party: 1, __proto__: null, constructor: { hut: 'kestrel' } },
    ]) {
      const answer = await callTool(client, 'reserve_bunks', args);
      expect(answer.isError, JSON.stringify(args)).to.equal(true);
    }
    const good = await callTool(client, 'reserve_bunks', { night: '2027-02-14', party: 1 });
    expect(good.structuredContent).to.include({ hut: 'larch', by: 'tobias' });
    await client.close();
  });

  it('keeps two wardens apart who have keys for the same endpoint', async () => {
    house.service.tables.definitions.create('notes', { text: 'text', by: 'text' }, 'by');
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: my-notes\nsteps:\n  mine: { kind: table, with: { table: notes, do: find, limit: 50 } }\nresult: { notes: "${ steps.mine.rows }" }\n',
    );
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: note\ninput: { type: object, required: [text], properties: { text: { type: string } } }\nsteps:\n  keep: { kind: table, with: { table: notes, do: add, row: { text: "${ input.text }" } } }\nresult: { kept: "${ steps.keep.row }" }\n',
    );
    for (const flow of ['my-notes', 'note']) house.service.flows.revisions.publish(flow);
    await house.api.addTools({
      name: 'huts',
      body: { tools: { my_notes: { flow: 'my-notes' }, note: { flow: 'note' } } },
    });
    const [ines, tobias] = [await connect(house.service, keys.ines), await connect(house.service, keys.tobias)];
    await callTool(ines, 'note', { text: 'The stove smokes.' });
    await callTool(tobias, 'note', { text: 'Order wood.' });
    const seen = async (client: typeof ines) =>
      ((await callTool(client, 'my_notes', {})).structuredContent as { notes: { text: string }[] }).notes.map(
        ({ text }) => text,
      );
    expect(await seen(ines)).to.deep.equal(['The stove smokes.']);
    expect(await seen(tobias)).to.deep.equal(['Order wood.']);
    await ines.close();
    await tobias.close();
  });
});
