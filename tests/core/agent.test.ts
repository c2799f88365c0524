import { diagnose, type Json, type Ports, type ToolDescription } from '@pindro/core';
import { expect } from 'chai';
import { flow, journalOf, modelAt, run, spansOf, type TestPorts, testPorts, text, web } from '../support/ports.js';
import { deadPort, type Reply, type ScriptedModel, scriptedModel } from '../support/scripted-model.js';

const LIFT: ToolDescription[] = [
  { name: 'list_loads', description: 'List loads.', inputSchema: { type: 'object', properties: {} } },
  {
    name: 'schedule_load',
    description: 'Schedule a load.',
    inputSchema: {
      type: 'object',
      required: ['hut', 'weight_kg'],
      properties: { hut: { type: 'string' }, weight_kg: { type: 'number' }, priority: { type: 'string' } },
    },
  },
];

const agent = (toolbox: string, more = '') =>
  flow(
    `  desk: { kind: agent, with: { model: house, instructions: "Help \${ caller.id }.", message: "\${ input.message }", toolbox: ${toolbox} ${more} } }`,
    'input: { type: object, properties: { message: { type: string } } }\nresult: "${ steps.desk.answer }"',
  );

describe('the agent', () => {
  let model: ScriptedModel;
  let ports: TestPorts;
  const called: { tool: string; args: Json; key: string }[] = [];

  const begin = async (replies: Reply[], parts: Partial<Ports> = {}) => {
    model = await scriptedModel(replies);
    called.length = 0;
    ports = testPorts({
      fetch: web,
      tools: { lift: LIFT },
      models: modelAt(model.url, { temperature: 0, patience: '1s' }),
      ...parts,
    } as never);
    ports.toolServers.call = async (_server, tool, args, { idempotencyKey }) => {
      called.push({ tool, args, key: idempotencyKey });
      if (Number(args.weight_kg) > 350) return text(`at most 350 kg; weight_kg was ${args.weight_kg}`, true);
      return text('{"load":"L-1"}');
    };
  };
  const say = (document: string, message = 'hello') => run(document, { message }, ports);
  afterEach(() => model.close());

  it('answers in the end, with its texts streamed', async () => {
    await begin([{ text: 'Good morning.' }]);
    expect(await say(agent('[]'))).to.deep.include({ state: 'done', result: 'Good morning.' });
    const streamed = ports.shown.flatMap(({ live }) => (live.kind === 'text' ? [live.text] : []));
    expect(streamed.length).to.be.above(1);
    expect(streamed.join('')).to.equal('Good morning.');
    expect(model.requests[0]!.body).to.deep.include({ temperature: 0, model: 'm', stream: true });
    expect(model.requests[0]!.body.messages).to.deep.equal([
      { role: 'system', content: 'Help ines.' },
      { role: 'user', content: 'hello' },
    ]);
    expect(model.requests[0]!.headers.traceparent).to.match(/^00-/);
  });

  it('calls tools side by side and hands back what came of them', async () => {
    await begin([
      {
        calls: [
          { name: 'list_loads', arguments: {} },
          { name: 'schedule_load', arguments: { hut: 'larch', weight_kg: 20 } },
        ],
      },
      { text: 'Booked.' },
    ]);
    const outcome = await say(agent('[{ server: lift }]'));
    expect(outcome.result).to.equal('Booked.');
    expect(called.map((call) => call.tool)).to.have.members(['list_loads', 'schedule_load']);
    expect(new Set(called.map((call) => call.key)).size).to.equal(2);
    expect(model.requests[1]!.body.messages.at(-1)).to.deep.include({
      role: 'tool',
      content: '(Result from tool server "lift".)\n{"load":"L-1"}',
    });
    const spans = spansOf(ports);
    const tree = (work: string) =>
      spans
        .filter((span) => span.work === work)
        .map((span) => spans.find((parent) => parent.spanId === span.parentId)?.work);
    expect(tree('tool')).to.deep.equal(['agent', 'agent']);
    expect(tree('model')).to.deep.equal(['agent', 'agent']);
    expect(tree('agent')).to.deep.equal(['step']);
    const told = journalOf(ports).flatMap((entry) =>
      entry.type === 'agent_turn' ? [(entry.turn as { is: string }).is] : [],
    );
    expect(told).to.deep.equal([...['begun', 'answered', 'calling', 'calling', 'result', 'result', 'answered']]);
  });

  it('offers what the toolbox says, worded and governed', async () => {
    await begin([{ calls: [{ name: 'schedule_load', arguments: { weight_kg: 10 } }] }, { text: 'ok' }]);
    await say(
      agent(
        '[{ server: lift, use: ["*", "!list_*"], tools: { schedule_load: { when: "Only on weekdays.", arguments: { hut: { set: "${ caller.hut }" }, priority: omit } } } }]',
      ),
    );
    expect(model.requests[0]!.body.tools).to.deep.equal([
      {
        type: 'function',
        function: {
          name: 'schedule_load',
          description: 'Only on weekdays.\n\nSchedule a load.\n(Tool of server "lift")',
          parameters: { type: 'object', required: ['weight_kg'], properties: { weight_kg: { type: 'number' } } },
        },
      },
    ]);
    expect(called[0]!.args).to.deep.equal({ hut: 'kestrel', weight_kg: 10 });
  });

  it('tells the model what went wrong with a call and goes on', async () => {
    await begin([
      {
        calls: [
          { name: 'schedule_load', arguments: { hut: 'larch', weight_kg: 400 } },
          { name: 'no_such_tool', arguments: {} },
          { name: 'schedule_load', arguments: '{"hut": ' },
          { name: 'schedule_load', arguments: { hut: 'larch' } },
        ],
      },
      { text: 'Too heavy.' },
    ]);
    const outcome = await say(agent('[{ server: lift }]'));
    expect(outcome).to.deep.include({ state: 'done', result: 'Too heavy.' });
    const told = model.requests[1]!.body.messages.filter((message) => message.role === 'tool').map(
      (message) => message.content,
    );
    expect(told[0]).to.contain('Error:').and.contain('at most 350 kg');
    expect(told[1]).to.contain('There is no tool "no_such_tool"');
    expect(told[2]).to.contain('not a JSON object');
    expect(told[3]).to.contain('"weight_kg" is missing');
    expect(called).to.have.length(1);
    const findings = diagnose({
      runs: [{ id: outcome.run, flow: 'test', parentRun: null, state: 'done', error: null }],
      spans: spansOf(ports),
    });
    expect(findings.map((finding) => finding.severity)).to.deep.equal(['warning', 'warning', 'warning', 'warning']);
    expect(findings.map((finding) => finding.code)).to.include.members(['tool_error', 'arguments_refused']);
  });

  it('goes on without a server that cannot be reached, and says so', async () => {
    await begin([{ text: 'I will do without.' }]);
    ports.toolServers.describe = async () => ({
      tools: LIFT,
      rules: {},
      unreachable: { code: 'server_unreachable', message: 'Tool server "lift" cannot be reached', hint: 'Start it.' },
    });
    const outcome = await say(agent('[{ server: lift }]'));
    expect(outcome.state).to.equal('done');
    const [finding] = diagnose({
      runs: [{ id: outcome.run, flow: 'test', parentRun: null, state: 'done', error: null }],
      spans: spansOf(ports),
    });
    expect(finding).to.deep.include({ code: 'server_unreachable', severity: 'warning', place: { server: 'lift' } });
  });

  it('remembers by session and caller, a window of exchanges', async () => {
    await begin([{ text: 'one' }, { text: 'two' }, { text: 'three' }, { text: 'other' }]);
    const document = agent('[]', ', memory: { key: ["${ session.id }"], turns: 1 }');
    for (const message of ['a', 'b', 'c']) await say(document, message);
    expect(model.requests[2]!.body.messages.map((message) => message.content)).to.deep.equal([
      'Help ines.',
      'b',
      'two',
      'c',
    ]);
    await run(document, { message: 'd' }, ports, { caller: { id: 'tobias', attributes: {} } });
    expect(model.requests[3]!.body.messages.map((message) => message.content)).to.deep.equal(['Help tobias.', 'd']);
  });

  it('fails a memory key of which a part is missing', async () => {
    await begin([{ text: 'x' }]);
    expect((await say(agent('[]', ', memory: { key: ["${ caller.nothing }"] }'))).error).to.include({
      code: 'no_value',
      at: '/steps/desk/with/memory/key/0',
    });
  });

  it('stops at its limits of rounds, tokens and time', async () => {
    await begin([{ calls: [{ name: 'list_loads', arguments: {} }] }]);
    expect((await say(agent('[{ server: lift }]', ', limits: { rounds: 3 }'))).error?.code).to.equal('round_limit');
    expect(model.requests).to.have.length(3);
    expect((await say(agent('[{ server: lift }]', ', limits: { tokens: 20 }'))).error?.code).to.equal('token_limit');
    await model.close();
    await begin([() => {}]);
    expect((await say(agent('[]', ', limits: { time: 50ms }'))).error?.code).to.equal('timed_out');
  });

  const bad: Record<string, [Reply, string, RegExp]> = {
    'a refused key': [
      (response) =>
        void response.writeHead(401, { 'content-type': 'application/json' }).end('{"error":{"message":"bad key"}}'),
      'model_refused',
      /401: bad key/,
    ],
    'too many questions': [
      (response) => void response.writeHead(429).end('slow down'),
      'model_refused',
      /429: slow down/,
    ],
    'a fault of its own': [(response) => void response.writeHead(500).end(), 'model_refused', /500/],
    garbage: [
      (response) => void response.writeHead(200).end('<html>hello</html>'),
      'model_garbage',
      /neither events nor JSON/,
    ],
    'broken events': [
      (response) => void response.writeHead(200).end('data: {"choices": [\n\n'),
      'model_garbage',
      /cannot be parsed/,
    ],
    nothing: [(response) => void response.writeHead(200).end(), 'model_garbage', /empty/],
    'a hang-up': [(response) => void response.destroy(), 'model_unreachable', /cannot be reached/],
  };
  for (const [what, [reply, code, words]] of Object.entries(bad)) {
    it(`explains a model that answers with ${what}`, async () => {
      await begin([reply]);
      const { error, state } = await say(agent('[]'));
      expect(state).to.equal('failed');
      expect(error?.code).to.equal(code);
      expect(error?.message).to.match(words);
      expect(error?.hint).not.to.equal('');
    });
  }

  it('explains a model that is not there', async () => {
    await begin([]);
    const port = await deadPort();
    ports.models.connection = async (name) => ({
      name,
      dialect: 'chat-completions',
      base: `http://127.0.0.1:${port}`,
      model: 'm',
      credential: null,
      settings: {},
    });
    expect((await say(agent('[]'))).error?.code).to.equal('model_unreachable');
  });
});
