import type { ApprovalRequest, Decision, Json, Ports, ToolDescription } from '@pindro/core';
import { expect } from 'chai';
import { flow, modelAt, run, spansOf, type TestPorts, testPorts, text, web } from '../support/ports.js';
import { type Reply, type ScriptedModel, scriptedModel } from '../support/scripted-model.js';

const call = (name: string, args: object = {}) => ({ calls: [{ name, arguments: args }] });
const desk = (more: string) =>
  flow(
    `  desk: { kind: agent, with: { model: house, message: "\${ input.message }" ${more} } }`,
    'input: { type: object, properties: { message: { type: string } } }\nresult: "${ steps.desk.answer }"',
  );

describe('what an agent can do without anything attached', () => {
  let model: ScriptedModel;
  let ports: TestPorts;
  const begin = async (
    replies: Reply[],
    parts: Partial<Ports> & { tools?: Record<string, ToolDescription[]> } = {},
  ) => {
    model = await scriptedModel(replies);
    ports = testPorts({ fetch: web, models: modelAt(model.url), ...parts } as never);
  };
  afterEach(() => model.close());
  const say = (more: string) => run(desk(more), { message: 'hello' }, ports);
  /** What the model read of the last call. */
  const read = (request = 1) => String(model.requests[request]!.body.messages.at(-1)!.content);
  const offered = (request = 0) => (model.requests[request]!.body.tools ?? []).map((tool) => tool.function.name);

  it('knows what time it is, here and elsewhere', async () => {
    await begin([call('clock', { zone: 'Asia/Tokyo' }), call('clock', { zone: 'Mars/Olympus' }), { text: 'ok' }]);
    await say(', built_in: { clock: true }');
    expect(offered()).to.deep.equal(['clock']);
    expect(JSON.parse(read())).to.deep.equal({
      ...{ date: '2027-02-14', time: '19:00:00', weekday: 'Sunday', zone: 'Asia/Tokyo' },
      utc: '2027-02-14T10:00:00.000Z',
    });
    expect(read(2)).to.contain('there is no time zone "Mars/Olympus"').and.contain('Europe/Vienna');
  });

  it('works out sums exactly, and nothing else', async () => {
    const asks = ['(120 + 80) * 1.5', '[3.5, 4].sum() * 2', 'input.message', '} + ${ 1', '1 / 0'];
    await begin([...asks.map((expression) => call('calculate', { expression })), { text: 'ok' }]);
    await say(', built_in: { calculate: true }, limits: { rounds: 20 }');
    expect(read(1)).to.equal('{"result":300}');
    expect(read(2)).to.equal('{"result":15}');
    for (const request of [3, 4]) expect(read(request)).to.match(/^Error: .*cannot be evaluated/);
  });

  it('reads pages of the addresses that were allowed, as text', async () => {
    const asked: string[] = [];
    const pages = async (request: { url: string }, options: { onPiece?: unknown }) => {
      if (options.onPiece) return web(request as never, options as never);
      asked.push(request.url);
      const body =
        '<html><nav>Menu</nav><script>x()</script><h1>Hut rules</h1><p>No boots <a href="/x">inside</a>.</p></html>';
      return { status: 200, headers: { 'content-type': 'text/html' }, body };
    };
    const addresses = [
      'https://huts.example/rules/larch',
      'https://huts.example.evil.test/rules/larch',
      'https://huts.example@evil.test/rules/',
      'https://huts.example/bookings',
      'file:///etc/passwd',
    ];
    await begin([...addresses.map((address) => call('fetch_page', { address })), { text: 'ok' }], {
      fetch: pages,
    });
    await say(', built_in: { fetch_page: ["https://huts.example/rules/*"] }, limits: { rounds: 20 }');
    expect(JSON.parse(read()).text).to.equal('HUT RULES\n\nNo boots inside.');
    for (const request of [2, 3, 4, 5]) expect(read(request)).to.match(/^Error: /);
    expect(asked).to.deep.equal(['https://huts.example/rules/larch']);
  });

  it('notes facts, corrects and finds them, and has them in later conversations', async () => {
    const kept = new Map<string, Json[]>();
    const memory = {
      open: async (key: string) => kept.get(key) ?? [],
      look: async (key: string) => kept.get(key) ?? [],
      save: async (key: string, turns: Json[]) => void kept.set(key, turns),
      release: async () => {},
    };
    await begin(
      [
        call('note_down', { about: 'hut', text: 'larch' }),
        call('note_down', { about: 'Hut', text: 'kestrel' }),
        call('look_up_notes', { words: 'kestrel' }),
        { text: 'noted' },
        call('forget_note', { about: 'hut' }),
        call('forget_note', { about: 'hut' }),
        { text: 'ok' },
      ],
      { memory },
    );
    const more = ', memory: { key: ["${ caller.id }"], notes: true }';
    await say(more);
    expect(JSON.parse(read(3)).notes).to.have.length(1);
    expect([...kept.keys()].map((key) => JSON.parse(key).at(-1))).to.have.deep.members(['ines', { part: 'notes' }]);
    await say(more);
    expect(model.requests[4]!.body.messages[0]!.content).to.contain('Your notes from earlier:\n- Hut: kestrel');
    expect(read(6)).to.contain('there is no note about "hut"');
  });

  it('asks its user by a form, and goes on with the answer', async () => {
    const asked: ApprovalRequest[] = [];
    const decisions: Decision[] = [
      { decision: 'approved', by: 'ines', note: '', value: { night: '2027-02-14', quiet: true } },
      { decision: 'refused', by: 'ines', note: 'later' },
    ];
    const approvals = {
      ask: async (request: ApprovalRequest) => {
        asked.push(request);
        return decisions[asked.length - 1]!;
      },
    };
    const fields = [
      { name: 'night', type: 'date', label: 'Which night?' },
      { name: 'quiet', type: 'yes_or_no' },
      { name: 'room', type: 'choice', choices: ['small', 'large'], optional: true },
    ];
    await begin(
      [
        call('ask_user', { question: 'When do you come?', fields }),
        call('ask_user', { question: 'And who?', fields }),
        { text: 'ok' },
      ],
      { approvals },
    );
    await say(', built_in: { ask_user: true }');
    expect(asked[0]).to.deep.include({ title: 'When do you come?', by: 'caller', path: 'desk/1.1' });
    expect(asked[0]!.schema).to.deep.include({
      required: ['night'],
      properties: {
        night: { title: 'Which night?', type: 'string', format: 'date' },
        quiet: { type: 'boolean' },
        room: { type: 'string', enum: ['small', 'large'] },
      },
    });
    expect(JSON.parse(read())).to.deep.equal({ answer: { night: '2027-02-14', quiet: true } });
    expect(read(2)).to.contain('declined to answer: later');
  });

  it('is offered the few tools that fit what it needs, where there are too many to read', async () => {
    const tool = (name: string, description: string): ToolDescription => ({
      ...{ name, description, inputSchema: { type: 'object', properties: {} } },
    });
    const tools = [
      tool('schedule_load', 'Book a load on the cable lift.'),
      tool('lift_status', 'Tell whether the lift runs.'),
      ...Array.from({ length: 60 }, (_, index) => tool(`archive_${index}`, `Open folder ${index} of the archive.`)),
    ];
    await begin(
      [
        call('find_tools', { need: 'send a load up with the lift' }),
        call('schedule_load'),
        call('find_tools', { need: 'sing' }),
        { text: 'ok' },
      ],
      { tools: { lift: tools } },
    );
    ports.toolServers.call = async () => text('{"load":"L-1"}');
    await say(', offer: look_up, built_in: { clock: true }, toolbox: [{ server: lift }]');
    expect(offered(0)).to.deep.equal(['clock', 'find_tools']);
    expect(offered(1)).to.deep.equal(['schedule_load', 'lift_status', 'clock', 'find_tools']);
    expect(read(2)).to.equal('(Result from tool server "lift".)\n{"load":"L-1"}');
    expect(read(3)).to.contain('No tool matches');
    const [looked] = spansOf(ports).filter(({ name }) => name === 'execute_tool find_tools');
    expect(JSON.stringify(looked!.output)).to.contain('schedule_load').and.not.contain('archive');
  });
});
