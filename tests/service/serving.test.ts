import { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { SSEClientTransport } from '@modelcontextprotocol/sdk/client/sse.js';
import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import {
  LoggingMessageNotificationSchema,
  ToolListChangedNotificationSchema,
} from '@modelcontextprotocol/sdk/types.js';
import { ProblemError } from '@pindro/contract';
import { startModel } from '@pindro/standins';
import { expect } from 'chai';
import {
  callTool,
  connect,
  discard,
  furnish,
  LIFT_KEY,
  startTestLift,
  type ToolAnswer,
  temporary,
  until,
  type Workspace,
  workspace,
} from '../support/workspace.js';

const SLOW = `
format: pindro/flow@1
name: slow-look
title: Look slowly
description: Looks at the huts in three steps, with a rest in between, to see how a long call is told.
steps:
  look: { kind: table, with: { table: huts, do: find, limit: 5 } }
  rest: { kind: wait, after: [look], with: { for: 300ms } }
  tell: { kind: text, after: [rest], with: { text: "seen by \${ session.client } on \${ session.endpoint }" } }
result: { said: "\${ steps.tell.text }", count: "\${ steps.look.count }" }
`;
const names = async (client: Client) => (await client.listTools()).tools.map((tool) => tool.name);
const refusal = async (work: Promise<unknown>): Promise<ProblemError> => {
  const error = await work.then(() => null).catch((thrown: unknown) => thrown);
  expect(error).to.be.instanceOf(ProblemError);
  return error as ProblemError;
};

describe('serving tools', () => {
  let house: Workspace;
  let keys: { ines: string; tobias: string };
  beforeEach(async () => {
    house = await workspace();
    keys = furnish(house.service);
    house.service.flows.drafts.save(SLOW);
    house.service.flows.revisions.publish('slow-look');
    await house.api.addTools({ name: 'huts', body: { tools: { slow_look: { flow: 'slow-look' } } } });
  });
  afterEach(() => house.close());

  describe('an endpoint', () => {
    it('keeps answering at its old address after it was renamed, for the same keys and open sessions', async () => {
      const before = await connect(house.service, keys.ines);
      const renamed = await house.api.renameEndpoint({ name: 'huts', body: { to: 'alder-ridge' } });
      expect(renamed).to.include({ name: 'alder-ridge', sessions: 1, keys: 3 });
      expect(renamed.formerly).to.deep.equal(['huts']);
      expect(await names(before)).to.include('reserve_bunks');
      for (const address of ['huts', 'alder-ridge']) {
        const client = await connect(house.service, keys.tobias, address);
        expect(client.getServerVersion()).to.include({ name: 'alder-ridge', title: 'Huts' });
        await client.close();
      }
      const taken = await refusal(
        house.api.createEndpoint({ body: { document: { format: 'pindro/endpoint@1', name: 'huts' } } }),
      );
      expect(taken.problem.code).to.equal('already_there');
      await before.close();
      await house.api.removeEndpoint({ name: 'huts', query: { force: 'true' } });
      expect((await refusal(house.api.getEndpoint({ name: 'alder-ridge' }))).problem.status).to.equal(404);
    });

    it('has pictures, its own and of its tools, in the shape that MCP gives them', async () => {
      const dot = 'data:image/png;base64,iVBORw0KGgo=';
      await house.api.updateEndpoint({ name: 'huts', body: { icon: 'https://alder-ridge.example/huts.png' } });
      await house.api.describeTool({ name: 'huts', tool: 'reserve_bunks', body: { icon: dot } });
      const client = await connect(house.service, keys.ines);
      expect(client.getServerVersion()?.icons).to.deep.equal([{ src: 'https://alder-ridge.example/huts.png' }]);
      const shown = async () => (await client.listTools()).tools[0]!.icons;
      expect(await shown()).to.deep.equal([{ src: dot, mimeType: 'image/png' }]);
      for (const icon of ['javascript:alert(1)', 'http://plain.example/a.png', 'data:text/html;base64,PGI+'])
        expect(
          (await refusal(house.api.describeTool({ name: 'huts', tool: 'reserve_bunks', body: { icon } }))).problem,
        ).to.have.nested.property('mistakes[0].at', '/tools/reserve_bunks/icon');
      await house.api.describeTool({ name: 'huts', tool: 'reserve_bunks', body: { icon: null } });
      expect(await shown()).to.equal(undefined);
      await client.close();
    });

    it('lets every word be changed without touching the flow, and taken back', async () => {
      const word = (body: Parameters<typeof house.api.describeTool>[0]['body'], tool = 'reserve_bunks') =>
        house.api.describeTool({ name: 'huts', tool, body });
      await word({
        description: 'Reserve once you have looked.',
        title: 'Book a bed',
        arguments: { night: { ask: { description: 'The night, as 2027-02-14' } }, hut: { set: 'larch' } },
        annotations: { destructiveHint: true },
      });
      const client = await connect(house.service, keys.ines);
      const [tool] = (await client.listTools()).tools;
      expect(tool).to.deep.include({ title: 'Book a bed', description: 'Reserve once you have looked.' });
      expect(tool!.annotations).to.deep.include({ readOnlyHint: false, destructiveHint: true });
      expect(tool!.inputSchema.properties).to.have.all.keys('night', 'party');
      const shown = (await house.api.getEndpoint({ name: 'huts' })).toolList[0]!;
      expect(shown.own.description).to.equal('Reserve bunks in one hut for one night.');
      expect(shown.arguments.map(({ name, supplied, value }) => [name, supplied, value])).to.deep.equal([
        ['hut', 'set', 'larch'],
        ['night', 'asked', null],
        ['party', 'asked', null],
      ]);
      await word({ name: 'book_a_bed', description: null, title: null, arguments: { hut: null, night: null } });
      const [back] = (await client.listTools()).tools;
      expect(back).to.include({ name: 'book_a_bed', description: 'Reserve bunks in one hut for one night.' });
      expect(back!.inputSchema.properties).to.include.keys('hut');
      expect((await refusal(word({ name: 'slow_look' }, 'book_a_bed'))).problem.code).to.equal('already_there');
      await client.close();
    });

    it('says what a tool does and returns, and returns just that', async () => {
      const client = await connect(house.service, keys.ines);
      const tools = Object.fromEntries((await client.listTools()).tools.map((tool) => [tool.name, tool]));
      expect(tools.reserve_bunks!.annotations).to.include({ readOnlyHint: false, destructiveHint: false });
      // It may wait, and then answers with where it stands.
      expect(tools.slow_look).to.not.have.property('outputSchema');
      house.service.flows.drafts.save(
        'format: pindro/flow@1\nname: count\nsteps:\n  all: { kind: table, with: { table: huts, do: count } }\nresult: { count: "${ steps.all.count }" }\n',
      );
      house.service.flows.revisions.publish('count');
      await house.api.addTools({ name: 'huts', body: { tools: { count_huts: { flow: 'count' } } } });
      const counted = (await client.listTools()).tools.find((tool) => tool.name === 'count_huts')!;
      expect(counted.annotations).to.deep.include({ readOnlyHint: true, openWorldHint: false });
      expect(counted.outputSchema).to.deep.equal({ type: 'object', properties: { count: { type: 'integer' } } });
      expect((await callTool(client, 'count_huts', {})).structuredContent).to.deep.equal({ count: 2 });
      await house.api.describeTool({
        name: 'huts',
        tool: 'count_huts',
        body: { returns: { type: 'object', required: ['beds'], properties: { beds: { type: 'integer' } } } },
      });
      const broken = await callTool(client, 'count_huts', {});
      expect(broken.isError).to.equal(true);
      expect(broken.content[0]!.text).to.match(/"beds" is missing[\s\S]*builder must fix/);
      await client.close();
    });

    it('passes on every kind of content', async () => {
      house.service.flows.drafts.save(`
format: pindro/flow@1
name: postcard
steps:
  say: { kind: text, with: { text: "Greetings" } }
result:
  content:
    - { type: text, text: "\${ steps.say.text }" }
    - { type: image, data: "aGk=", mimeType: image/png }
    - { type: audio, data: "aGk=", mimeType: audio/wav }
    - { type: resource_link, uri: "file:///map.txt", name: map }
    - { type: resource, resource: { uri: "file:///rules.txt", text: "Quiet after ten." } }
  data: { from: larch }
`);
      house.service.flows.revisions.publish('postcard');
      await house.api.addTools({ name: 'huts', body: { tools: { postcard: { flow: 'postcard' } } } });
      const client = await connect(house.service, keys.ines);
      const answer = await callTool(client, 'postcard', {});
      expect(answer.content.map(({ type }) => type)).to.deep.equal([
        'text',
        'image',
        'audio',
        'resource_link',
        'resource',
      ]);
      expect(answer.content[0]!.text).to.equal('Greetings');
      expect(answer.structuredContent).to.deep.equal({ from: 'larch' });
      await client.close();
    });

    it('passes on a whole server, with the rules and words of the builder', async () => {
      const lift = await startTestLift();
      await house.api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
      await house.api.addTools({
        name: 'huts',
        body: { servers: { lift: { use: ['!schedule*'], arguments: { station: { set: 'valley' } } } } },
      });
      const client = await connect(house.service, keys.ines);
      const listed = await names(client);
      expect(listed).to.include('list_loads').and.not.include('schedule_load');
      const loads = await callTool(client, 'list_loads', {});
      expect(loads.isError, loads.content[0]?.text).to.not.equal(true);
      await house.api.describeTool({ name: 'huts', tool: 'list_loads', body: { name: 'loads_today' } });
      expect(await names(client))
        .to.include('loads_today')
        .and.not.include('list_loads');
      expect((await refusal(house.api.removeServer({ name: 'lift' }))).problem.code).to.equal('in_use');
      await house.api.removeTool({ name: 'huts', tool: 'loads_today' });
      await house.api.removeTool({ name: 'huts', tool: 'lift' });
      expect(await names(client)).to.deep.equal(['reserve_bunks', 'slow_look']);
      await house.api.removeServer({ name: 'lift' });
      await client.close();
      await lift.close();
    });
  });

  describe('a client', () => {
    const later = async (client: Client, what: Promise<unknown>) => what.finally(() => client.close());

    it('hears of a tool that is renamed, at once, and calls it by its new name', async () => {
      const [ines, tobias] = [await connect(house.service, keys.ines), await connect(house.service, keys.tobias)];
      const only = house.service.keys.issue({
        name: 'slow only',
        attributes: {},
        stage: 'live',
        endpoints: ['huts'],
        tools: ['slow_look'],
        manage: false,
      });
      const other = await connect(house.service, only.key);
      const heard: string[] = [];
      for (const [who, client] of [
        ['ines', ines],
        ['tobias', tobias],
        ['other', other],
      ] as const) {
        await client.listTools();
        client.setNotificationHandler(ToolListChangedNotificationSchema, () => void heard.push(who));
      }
      await house.api.describeTool({ name: 'huts', tool: 'reserve_bunks', body: { name: 'book_bunks' } });
      await until(() => heard.length >= 2, 'the change to be heard');
      expect(heard.toSorted()).to.deep.equal(['ines', 'tobias']);
      const booked = await callTool(ines, 'book_bunks', { hut: 'larch', night: '2027-02-14', party: 2 });
      expect(booked.structuredContent).to.include({ by: 'ines', party: 2 });
      const gone = await ines.callTool({ name: 'reserve_bunks', arguments: {} }).catch((error: Error) => error.message);
      expect(gone).to.contain('There is no tool "reserve_bunks"').and.contain('book_bunks');
      await later(ines, later(tobias, later(other, Promise.resolve())));
    });

    for (const transport of ['streamable', 'sse'] as const) {
      it(`is told how far its call is, what happens, and can cancel it (${transport})`, async () => {
        const headers = { Authorization: `Bearer ${keys.ines}` };
        const client = new Client({ name: 'test-client', version: '1.0.0' });
        await client.connect(
          transport === 'sse'
            ? new SSEClientTransport(new URL(`${house.service.url}/mcp/huts/sse`), { requestInit: { headers } })
            : new StreamableHTTPClientTransport(new URL(`${house.service.url}/mcp/huts`), {
                requestInit: { headers },
              }),
        );
        const logs: string[] = [];
        client.setNotificationHandler(LoggingMessageNotificationSchema, ({ params }) => {
          logs.push(`${params.level} ${params.logger}: ${params.data}`);
        });
        await client.setLoggingLevel('info');
        const progress: string[] = [];
        const answer = (await client.callTool({ name: 'slow_look', arguments: {} }, undefined, {
          onprogress: ({ progress: done, total, message }) => progress.push(`${done}/${total} ${message}`),
        })) as unknown as ToolAnswer;
        expect(answer.structuredContent).to.deep.equal({ said: 'seen by test-client on huts', count: 2 });
        // A client of the SDK forgets what it was told of a call in the moment its answer is read with it.
        expect(progress[0]).to.equal('1/3 look: done');
        expect(progress.at(-1)).to.match(/^[23]\/3 (rest|tell): /);
        expect(
          logs.some((line) => /^info slow_look: Step look is done after \d+ ms$/.test(line)),
          logs.join(),
        ).to.equal(true);

        // Long enough to be cancelled on a slow machine, and short enough that the call still waits for it.
        house.service.flows.drafts.save(SLOW.replace('slow-look', 'long-look').replace('300ms', '15s'));
        house.service.flows.revisions.publish('long-look');
        await house.api.addTools({ name: 'huts', body: { tools: { long_look: { flow: 'long-look' } } } });
        const stop = new AbortController();
        const call = client
          .callTool({ name: 'long_look', arguments: {} }, undefined, { signal: stop.signal })
          .catch((error: Error) => error);
        await until(async () => (await house.api.listRuns({ query: { state: 'running' } })).items[0], 'the run');
        stop.abort(new Error('changed my mind'));
        expect(await call).to.be.instanceOf(Error);
        const run = await until(
          async () => (await house.api.listRuns({ query: { state: 'cancelled' } })).items[0],
          'the run to be cancelled',
        );
        const { spans } = await house.api.getRun({ id: run.id });
        expect(spans.find((span) => span.name === 'rest')!.status).to.equal('error');
        await client.close();
      });
    }

    it('takes up a stream that broke, with nothing missed', async () => {
      const headers = { authorization: `Bearer ${keys.ines}`, accept: 'application/json, text/event-stream' };
      const url = `${house.service.url}/mcp/huts`;
      const post = (message: object, session?: string, signal?: AbortSignal) =>
        fetch(url, {
          method: 'POST',
          headers: { ...headers, 'content-type': 'application/json', ...(session && { 'mcp-session-id': session }) },
          body: JSON.stringify({ jsonrpc: '2.0', ...message }),
          ...(signal && { signal }),
        });
      const clientInfo = { name: 'raw', version: '1' };
      const begun = await post({
        id: 1,
        method: 'initialize',
        params: { protocolVersion: '2025-11-25', capabilities: {}, clientInfo },
      });
      const session = begun.headers.get('mcp-session-id')!;
      const gone = new AbortController();
      const call = { id: 2, method: 'tools/call', params: { name: 'slow_look', _meta: { progressToken: 7 } } };
      const stream = (await post(call, session, gone.signal)).body!.getReader();
      let seen = '';
      while (!seen.includes('look: done')) seen += new TextDecoder().decode((await stream.read()).value);
      gone.abort();
      const last = /id: (\S+)\nevent: message\ndata: .*look: done/.exec(seen)![1]!;
      // Much happens while nobody listens.
      await until(
        async () => (await house.api.listRuns({ query: { state: 'done' } })).items[0],
        'the run to be done without its client',
      );
      const taken = await fetch(url, { headers: { ...headers, 'mcp-session-id': session, 'last-event-id': last } });
      const rest = await taken.text();
      expect(rest).to.not.contain('look: done');
      expect(rest).to.contain('tell: done').and.contain('"id":2,"result"').and.contain('seen by raw');
    });

    it('goes on with its session after the service was started again', async () => {
      const data = temporary();
      const port = 20_000 + Math.floor(Math.random() * 20_000);
      let there = await workspace({ data, port });
      const { ines, tobias } = furnish(there.service);
      const transport = new StreamableHTTPClientTransport(new URL(`${there.service.url}/mcp/huts`), {
        requestInit: { headers: { Authorization: `Bearer ${ines}` } },
        reconnectionOptions: {
          initialReconnectionDelay: 100,
          maxReconnectionDelay: 500,
          reconnectionDelayGrowFactor: 1,
          maxRetries: 50,
        },
      });
      const client = new Client({ name: 'steady', version: '3' });
      await client.connect(transport);
      expect(await names(client)).to.deep.equal(['reserve_bunks']);
      const id = transport.sessionId!;
      let heard = 0;
      client.setNotificationHandler(ToolListChangedNotificationSchema, () => void heard++);
      await there.close();
      there = await workspace({ data, port });
      // The first try may still go down a connection to the service that has stopped.
      const booked = await until(
        () => callTool(client, 'reserve_bunks', { hut: 'kestrel', night: '2027-03-01', party: 1 }).catch(() => null),
        'the service to be back',
      );
      expect(booked.structuredContent).to.include({ by: 'ines' });
      expect(transport.sessionId).to.equal(id);
      await until(() => heard > 0, 'the client to listen again');
      expect((await there.api.getEndpoint({ name: 'huts' })).clients[0]).to.include({ name: 'steady', version: '3' });
      // Another key cannot take it up.
      const other = await fetch(`${there.service.url}/mcp/huts`, {
        method: 'DELETE',
        headers: { authorization: `Bearer ${tobias}`, 'mcp-session-id': id },
      });
      expect(other.status).to.equal(404);
      await client.close();
      await there.close();
      discard(data);
    });

    it('gets a long list in pages', async () => {
      const tools = Object.fromEntries(
        Array.from({ length: 300 }, (_, index) => [`look_${index}`, { flow: 'slow-look' }]),
      );
      await house.api.addTools({ name: 'huts', body: { tools } });
      const client = await connect(house.service, keys.ines);
      const first = await client.listTools();
      expect(first.tools).to.have.lengthOf(250);
      const second = await client.listTools({ cursor: first.nextCursor });
      expect([second.tools.length, second.nextCursor]).to.deep.equal([52, undefined]);
      const wrong = await client.listTools({ cursor: 'nonsense' }).catch((error: Error) => error.message);
      expect(wrong).to.contain('Start without one');
      await client.close();
    });
  });

  describe('a key', () => {
    const issue = (more: object) => house.api.issueKey({ body: { name: 'scoped', endpoints: ['huts'], ...more } });

    it('opens only the tools, the reading and the calls a minute it is made for', async () => {
      const reading = await connect(house.service, (await issue({ readOnly: true })).key);
      expect(await names(reading)).to.deep.equal(['slow_look']);
      const single = await connect(house.service, (await issue({ tools: ['reserve_bunks'], perMinute: 1 })).key);
      expect(await names(single)).to.deep.equal(['reserve_bunks']);
      const args = { hut: 'larch', night: '2027-02-14', party: 1 };
      expect((await callTool(single, 'reserve_bunks', args)).isError).to.not.equal(true);
      const second = await callTool(single, 'reserve_bunks', args);
      expect(second.isError).to.equal(true);
      expect(second.content[0]!.text).to.match(/limit of 1 calls a minute[\s\S]*Retry in \d+ s/);
      for (const client of [reading, single]) await client.close();
    });

    it('ends when it was to end, can be rotated with an overlap, and takes its sessions along when revoked', async () => {
      const short = await issue({ expires: '3s' });
      await (await connect(house.service, short.key)).close();
      const late = await until(
        () =>
          connect(house.service, short.key).then(
            () => null,
            (error: Error) => error.message,
          ),
        'the key to end',
      );
      expect(late).to.contain('expired on');

      const old = await issue({ caller: 'marit', readOnly: true });
      const before = await connect(house.service, old.key);
      const fresh = await house.api.rotateKey({ id: old.summary.id, body: { overlap: '1h' } });
      expect(fresh.summary).to.include({ caller: 'marit', readOnly: true });
      expect(await names(before)).to.deep.equal(['slow_look']);
      const after = await connect(house.service, fresh.key);
      await house.api.revokeKey({ id: old.summary.id });
      const cut = await before.listTools().catch((error: Error) => error.message);
      expect(cut).to.contain('was revoked');
      expect(await names(after)).to.deep.equal(['slow_look']);
      await after.close();
    });

    it('is not found by guessing, and a right one is heard whatever others try from the same address', async () => {
      const attempt = (key: string) =>
        fetch(`${house.service.url}/mcp/huts`, {
          method: 'POST',
          headers: { authorization: `Bearer ${key}`, 'content-type': 'application/json' },
          body: '{}',
        }).then((response) => response.status);
      for (let turn = 0; turn < 20; turn++) expect(await attempt(`pindro_wrong${turn}`)).to.equal(401);
      expect(await attempt('pindro_wrong')).to.equal(429);
      // The key is good; what is wrong with the call is its body.
      expect(await attempt(keys.ines)).to.equal(400);
    });
  });

  describe('whoever looks after an endpoint', () => {
    it('sees what is wrong with its tools, and mends it in one go', async () => {
      const bad = (name: string, extra: string) =>
        `format: pindro/flow@1\nname: ${name}\n${extra}\nsteps:\n  a: { kind: table, with: { table: huts, do: find, limit: 3 } }\nresult: "\${ steps.a.rows }"\n`;
      for (const [name, extra] of [
        ['bad-one', 'title: Huts of the ridge'],
        [
          'bad-two',
          'description: Huts.\ninput: { type: object, required: [hut], properties: { hut: { type: string, description: "One of kestrel, larch" }, n: { type: integer } } }',
        ],
      ] as const) {
        house.service.flows.drafts.save(bad(name, extra));
        house.service.flows.revisions.publish(name);
      }
      await house.api.createEndpoint({
        body: {
          document:
            'format: pindro/endpoint@1\nname: bad\ntools:\n  run: { flow: bad-one }\n  create_report: { flow: bad-two }\n',
        },
      });
      const before = await house.api.reviewEndpoint({ name: 'bad' });
      expect(before.suggestions.map(({ id }) => id)).to.include.members([
        'name_vague/run',
        'name_misleads/create_report',
        'description_short/run',
        'choices_in_prose/create_report/hut',
        'argument_undescribed/create_report/n',
      ]);
      expect(before.tokens).to.be.above(50);
      const one = await house.api.applyReview({ name: 'bad', body: { suggestions: ['name_vague/run'] } });
      expect(one.applied).to.deep.equal(['name_vague/run']);
      const after = await house.api.applyReview({ name: 'bad', body: {} });
      expect(after.suggestions.filter(({ fix }) => fix !== null)).to.deep.equal([]);
      const tools = after.sent as { name: string; inputSchema: { properties: Record<string, object> } }[];
      expect(tools.map(({ name }) => name)).to.deep.equal(['huts_of_the_ridge', 'get_report']);
      expect(tools[1]!.inputSchema.properties.hut).to.deep.include({ enum: ['kestrel', 'larch'] });
      expect(tools[1]!.inputSchema.properties.n).to.deep.include({ description: 'N, a number.' });
    });

    it('sees who is connected, what happened, who used what, and can end a session', async () => {
      const client = await connect(house.service, keys.ines);
      await client.listTools();
      await callTool(client, 'reserve_bunks', { hut: 'larch', night: '2027-02-14', party: 2 });
      await callTool(client, 'reserve_bunks', { hut: 'larch', night: 'soon', party: 2 });
      const { items, happened } = await house.api.endpointSessions({ name: 'huts' });
      expect(items[0]).to.include({ client: 'test-client', caller: 'ines', calls: 2, lists: 1, transport: 'http' });
      expect(happened.map(({ kind }) => kind)).to.deep.equal(['called', 'called', 'listed', 'connected']);
      expect(happened[1]!.run).to.be.a('string');
      await house.api.getRun({ id: happened[1]!.run! });
      const { tools, total, over } = await house.api.endpointUsage({ name: 'huts' });
      expect(tools[0]).to.include({ tool: 'reserve_bunks', calls: 2, failed: 1 });
      expect(tools[0]!.refused).to.deep.equal([{ argument: 'night', times: 1 }]);
      expect(total.callers).to.deep.equal([{ caller: 'ines', calls: 2 }]);
      expect(over.reduce((sum, part) => sum + part.calls, 0)).to.equal(2);
      await house.api.endSession({ id: items[0]!.id });
      const cut = await client.listTools().catch((error: Error) => error.message);
      expect(cut).to.contain('Unknown session');
    });

    it('connects as a stranger would, and hears which part fails', async () => {
      const test = (body: { key?: string; url?: string }) => house.api.testEndpoint({ name: 'huts', body });
      const well = await test({});
      expect(well.ok, JSON.stringify(well.steps)).to.equal(true);
      expect(well.steps.map(({ state }) => state)).to.deep.equal(Array(7).fill('passed'));
      expect(well.steps[4]!.found).to.contain('2 tools: reserve_bunks, slow_look');
      const failed = async (body: { key?: string; url?: string }) => {
        const { steps } = await test(body);
        return steps.find(({ state }) => state === 'failed')!;
      };
      expect(await failed({ key: 'pindro_mistyped' })).to.deep.include({ what: 'The key is accepted' });
      expect((await failed({ key: 'PASTE-YOUR-KEY-HERE' })).found).to.contain('placeholder');
      expect(await failed({ url: 'http://127.0.0.1:9/mcp/huts' })).to.include({ what: 'The address responds' });
      expect(await failed({ url: `${house.service.url}/sign-in` })).to.include({
        what: 'A Pindro MCP endpoint is there',
      });
      await house.api.removeTool({ name: 'huts', tool: 'slow_look' });
      await house.api.removeTool({ name: 'huts', tool: 'reserve_bunks' });
      expect(await failed({ key: `Bearer ${keys.ines}` })).to.deep.include({ found: 'The tool list is empty' });
    });
  });
});

describe('tools of an agent that move onto an endpoint', () => {
  let house: Workspace;
  before(async () => {
    house = await workspace();
    furnish(house.service);
  });
  after(() => house.close());
  const agent = (rules: string) => `format: pindro/flow@1
name: desk
input: { type: object, properties: { message: { type: string }, hut: { type: string } } }
steps:
  # The desk answers.
  answer:
    kind: agent
    with:
      model: house
      message: "\${ input.message }"
      toolbox:
        - { server: lift, use: ["list_*", schedule_load], tools: { schedule_load: { when: Once the warden agrees., arguments: { hut: { set: ${rules} } } } } }
        - { flow: reserve-bunks, description: Reserve a bed. }
`;

  it('stand in the toolbox as one row, with the words and rules they had', async () => {
    const lift = await startTestLift();
    await house.api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
    const model = await startModel({ key: 'model-key' });
    await house.api.addCredential({ body: { name: 'model', secret: 'model-key' } });
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'house-1', credential: 'model' } });
    await house.api.importFlow({ body: { document: agent('"${ input.hut }"') } });
    const move = { name: 'desk', body: { step: '/steps/answer', endpoint: 'desk-tools' } };
    const bound = await house.api.moveToolbox(move).catch((error: ProblemError) => error.problem);
    expect(bound).to.have.property('detail').that.contains('set from this run');
    await house.api.importFlow({ body: { document: agent('"${ caller.hut }"') } });
    const moved = await house.api.moveToolbox(move);
    expect(moved.toolList.map(({ name, set }) => [name, set])).to.deep.equal([
      ['list_loads', []],
      ['schedule_load', ['hut = "${ caller.hut }"']],
      ['reserve_bunks', []],
    ]);
    expect(moved.toolList[1]!.description).to.match(/^Once the warden agrees\.\n\n\S/);
    const { text, document } = await house.api.getFlow({ name: 'desk' });
    expect(text).to.contain('# The desk answers.');
    const { steps } = document as { steps: { answer: { with: { toolbox: unknown } } } };
    expect(steps.answer.with.toolbox).to.deep.equal([{ endpoint: 'desk-tools' }]);
    const again = await house.api.moveToolbox(move).catch((error: ProblemError) => error.problem);
    expect(again).to.have.property('detail').that.contains('of the toolbox are on an endpoint');
    await Promise.all([lift.close(), model.close()]);
  });

  it('are reviewed where they are, and mended for this agent alone', async () => {
    const step = '/steps/answer';
    await house.api.importFlow({
      body: {
        document: `format: pindro/flow@1
name: rough
steps: { look: { kind: table, with: { table: huts, do: find, limit: 5 } } }
input: { type: object, properties: { hut: { type: string, description: "One of kestrel, larch" } } }
`,
      },
    });
    await house.api.publishFlow({ name: 'rough', body: {} });
    await house.api.addTools({ name: 'huts', body: { tools: { rough_two: { flow: 'rough' } } } });
    const document = agent('larch')
      .replace('name: desk', 'name: reviewed')
      .replace(
        '{ flow: reserve-bunks, description: Reserve a bed. }',
        '{ flow: rough }\n        - { endpoint: huts, use: [rough_two] }',
      )
      .replace(/ +- \{ server: lift.*\n/, '');
    await house.api.saveDraft({ name: 'reviewed', body: { document } });
    const before = await house.api.reviewToolbox({ name: 'reviewed', query: { step } });
    expect(before.sent.map(({ name }) => name)).to.deep.equal(['rough', 'rough_two']);
    const ids = before.suggestions.map(({ id }) => id);
    expect(ids).to.include('choices_in_prose/rough/hut');
    expect(before.suggestions.filter(({ fix }) => fix !== null)).to.not.deep.equal([]);
    const after = await house.api.applyToolboxReview({ name: 'reviewed', body: { step } });
    expect(after.applied).to.include('choices_in_prose/rough/hut');
    expect(after.suggestions.length).to.be.lessThan(before.suggestions.length);
    const { document: mended } = (await house.api.getFlow({ name: 'reviewed' })) as never as {
      document: { steps: { answer: { with: { toolbox: object[] } } } };
    };
    expect(mended.steps.answer.with.toolbox[0])
      .to.have.nested.property('arguments.hut.ask.schema.enum')
      .that.deep.equals(['kestrel', 'larch']);
    expect(JSON.stringify((await house.api.getEndpoint({ name: 'huts' })).document), 'the endpoint').to.not.contain(
      'enum',
    );
    const broken = await house.api.saveDraft({
      name: 'reviewed',
      body: { document: document.replace('{ flow: rough }', '{ flaw: rough }') },
    });
    expect(broken.mistakes).to.not.deep.equal([]);
    const refused = await refusal(house.api.reviewToolbox({ name: 'reviewed', query: { step } }));
    expect(refused.problem)
      .to.include({ status: 422 })
      .and.have.property('at')
      .that.contains('/steps/answer/with/toolbox/0');
  });

  it('are reviewed with what their schemas lose in the dialect of the model that reads them', async () => {
    const lost = async (dialect: 'generate-content' | 'messages') => {
      const name = `by-${dialect}`;
      await house.api.addModel({ body: { name, dialect, base: 'http://127.0.0.1:9/v1', model: 'm', skipTest: true } });
      const document = agent('larch')
        .replace('name: desk', `name: desk-${name}`)
        .replace('model: house', `model: ${name}`)
        .replace('{ flow: reserve-bunks, description: Reserve a bed. }', '{ flow: parties }')
        .replace(/ +- \{ server: lift.*\n/, '');
      await house.api.importFlow({ body: { document } });
      const { suggestions } = await house.api.reviewToolbox({ name: `desk-${name}`, query: { step: '/steps/answer' } });
      return suggestions.filter(({ code }) => code === 'told_in_words').map(({ title }) => title);
    };
    await house.api.importFlow({
      body: {
        document: `format: pindro/flow@1
name: parties
title: Count a party
description: Counts the people of one party that is on its way to a hut.
input: { type: object, properties: { party: { type: integer, description: How many come, enum: [2, 4, 8] } } }
steps: { say: { kind: text, with: { text: "\${ input.party }" } } }
`,
      },
    });
    expect(await lost('generate-content')).to.deep.equal([
      'The model receives part of "parties" as text only: /party: enum',
    ]);
    expect(await lost('messages')).to.deep.equal([]);
  });
});
