import { type ChatMessage, startModel, think } from '@pindro/standins';
import { expect } from 'chai';

const tool = (name: string, description: string, properties: object, required: string[] = []) => ({
  name,
  description,
  parameters: { type: 'object', properties, required } as never,
});
const HUT = { type: 'string', enum: ['kestrel', 'larch'] };
const DATE = { type: 'string', format: 'date' };
const TOOLS = [
  tool('bunk_availability', 'Tell how many bunks are free.', { hut: HUT, night: DATE }, ['hut', 'night']),
  tool(
    'reserve_bunks',
    'Reserve bunks. Use it only after bunk_availability has shown enough.',
    { hut: HUT, night: DATE, party: { type: 'integer', description: 'How many people' } },
    ['hut', 'night', 'party'],
  ),
  tool(
    'schedule_load',
    'Schedule a load for the lift.',
    {
      hut: HUT,
      day: DATE,
      weight_kg: { type: 'number', description: 'Weight in kg' },
      goods: { type: 'string', description: 'Description' },
    },
    ['hut', 'day', 'weight_kg'],
  ),
];
// Tools of a trade the model was never made for.
const GARDEN = [
  tool(
    'water_bed',
    'Water one bed of the garden for some minutes.',
    {
      bed: { type: 'string', enum: ['roses', 'herbs'] },
      minutes: { type: 'integer', description: 'For how many minutes' },
    },
    ['bed', 'minutes'],
  ),
  tool('find_plant', 'Search for a plant by its name.', { query: { type: 'string' } }, ['query']),
  tool(
    'cancel_order',
    'Cancel an order.',
    { order: { type: 'string', pattern: '^P-\\d{3}$' }, refund: { type: 'boolean' } },
    ['order'],
  ),
];
const user = (content: string): ChatMessage => ({ role: 'user', content });
const called = (name: string, args: object, result: string, id = 'c1'): ChatMessage[] => [
  { role: 'assistant', content: null, tool_calls: [{ id, function: { name, arguments: JSON.stringify(args) } }] },
  { role: 'tool', tool_call_id: id, content: result },
];
const calls = (text: string, tools = TOOLS, before: ChatMessage[] = []) => think([...before, user(text)], tools).calls;

describe('the model stand-in', () => {
  it('chooses a tool and fills its arguments by type, format and enum', () => {
    expect(calls('How many bunks are free in larch on 2027-02-14?')).to.deep.equal([
      { name: 'bunk_availability', arguments: { hut: 'larch', night: '2027-02-14' } },
    ]);
    expect(calls('Send 120 kg of firewood up to kestrel on 14 February 2027.')).to.deep.equal([
      { name: 'schedule_load', arguments: { hut: 'kestrel', day: '2027-02-14', weight_kg: 120, goods: 'firewood' } },
    ]);
  });

  it('works on tools it has never seen', () => {
    expect(calls('Please water the herbs for 15 minutes.', GARDEN)).to.deep.equal([
      { name: 'water_bed', arguments: { bed: 'herbs', minutes: 15 } },
    ]);
    expect(calls('Search "blue fern"', GARDEN)).to.deep.equal([
      { name: 'find_plant', arguments: { query: 'blue fern' } },
    ]);
    expect(calls('Cancel order P-017 without refund', GARDEN)).to.deep.equal([
      { name: 'cancel_order', arguments: { order: 'P-017', refund: false } },
    ]);
  });

  it('does first what a tool wants to have been done first', () => {
    const first = calls('Reserve 4 bunks in larch for 2027-02-14');
    expect(first).to.deep.equal([{ name: 'bunk_availability', arguments: { hut: 'larch', night: '2027-02-14' } }]);
    const next = think(
      [
        user('Reserve 4 bunks in larch for 2027-02-14'),
        ...called('bunk_availability', first[0]!.arguments, '{"free":16}'),
      ],
      TOOLS,
    );
    expect(next.calls).to.deep.equal([
      { name: 'reserve_bunks', arguments: { hut: 'larch', night: '2027-02-14', party: 4 } },
    ]);
  });

  it('does several things that are asked at once, each with its own facts', () => {
    const both = calls('Water the roses for 5 minutes and cancel order P-001.', GARDEN);
    expect(both).to.deep.equal([
      { name: 'water_bed', arguments: { bed: 'roses', minutes: 5 } },
      { name: 'cancel_order', arguments: { order: 'P-001' } },
    ]);
  });

  it('asks for a required argument that is missing, and takes the short reply', () => {
    const asked = think([user('How many bunks are free in larch?')], TOOLS);
    expect(asked.text).to.contain('night').and.match(/\?$/);
    const reply = think(
      [user('How many bunks are free in larch?'), { role: 'assistant', content: asked.text }, user('on 2027-02-14')],
      TOOLS,
    );
    expect(reply.calls).to.deep.equal([
      { name: 'bunk_availability', arguments: { hut: 'larch', night: '2027-02-14' } },
    ]);
  });

  it('remembers from the conversation what is not said again', () => {
    const before = [
      user('Are there free bunks in kestrel on 2027-02-14?'),
      ...called('bunk_availability', { hut: 'kestrel', night: '2027-02-14' }, '{"free":3}'),
      { role: 'assistant', content: 'free 3.' } as ChatMessage,
    ];
    expect(calls('How many are free there on the next night?', TOOLS, before)).to.deep.equal([
      { name: 'bunk_availability', arguments: { hut: 'kestrel', night: '2027-02-15' } },
    ]);
  });

  it('answers from results, and says plainly when a tool failed', () => {
    expect(
      think(
        [
          user('bunks free in larch on 2027-02-14?'),
          ...called('bunk_availability', { hut: 'larch', night: '2027-02-14' }, '{"hut":"larch","free":9}'),
        ],
        TOOLS,
      ).text,
    ).to.equal('Bunk availability: hut larch, free 9.');
    const failed = think(
      [
        user('Send 400 kg to larch on 2027-02-14'),
        ...called('schedule_load', { hut: 'larch', day: '2027-02-14', weight_kg: 400 }, 'Error: at most 350 kg'),
      ],
      TOOLS,
    );
    expect(failed).to.deep.equal({ text: 'I could not schedule load: at most 350 kg', calls: [] });
  });

  it('does not go on when what had to come first failed', () => {
    const next = think(
      [
        user('Reserve 4 bunks in larch for 2027-02-14'),
        ...called('bunk_availability', { hut: 'larch', night: '2027-02-14' }, 'Error: no such hut'),
      ],
      TOOLS,
    );
    expect(next.calls).to.deep.equal([]);
    expect(next.text).to.contain('I could not bunk availability').and.contain('I did not reserve bunks');
  });

  it('knows the day from its instructions', () => {
    const system: ChatMessage = { role: 'system', content: 'Today is 2027-03-01.' };
    expect(calls('Is there room in larch tomorrow?', TOOLS, [system])).to.deep.equal([
      { name: 'bunk_availability', arguments: { hut: 'larch', night: '2027-03-02' } },
    ]);
  });

  it('says what it can do when no tool fits, and that it has none', () => {
    expect(think([user('Sing a song')], TOOLS).text)
      .to.contain('I have no tool for that')
      .and.contain('reserve bunks');
    expect(think([user('Say hello')], []).text).to.equal('Hello.');
  });

  it('asks for what is missing by a form where it has one, and goes on with the answer', () => {
    const ASK = { name: 'ask_user', description: 'Asks the user.', parameters: {} };
    const first = think([user('Reserve 2 bunks')], [...TOOLS, ASK]);
    expect(first.calls[0]!.name).to.equal('ask_user');
    const { fields } = first.calls[0]!.arguments as { fields: { name: string; type: string }[] };
    expect(fields.map(({ name, type }) => `${name} ${type}`))
      .to.include('hut choice')
      .and.include('night date');
    const call = { id: 'a', function: { name: 'ask_user', arguments: JSON.stringify(first.calls[0]!.arguments) } };
    const answer = { answer: { hut: 'larch', night: '2027-02-14' } };
    const next = think(
      [
        user('Reserve 2 bunks'),
        { role: 'assistant', content: '', tool_calls: [call] },
        { role: 'tool', tool_call_id: 'a', content: JSON.stringify(answer) },
      ],
      [...TOOLS, ASK],
    );
    expect(JSON.stringify(next.calls)).to.contain('larch').and.contain('2027-02-14');
  });

  it('speaks the wire format, streamed and whole, and always says the same', async () => {
    const model = await startModel({ key: 'k' });
    const ask = async (stream: boolean, key = 'k') =>
      fetch(`${model.url}/chat/completions`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', authorization: `Bearer ${key}` },
        body: JSON.stringify({ stream, messages: [user('Say hello')] }),
      });
    try {
      expect((await ask(false, 'wrong')).status).to.equal(401);
      const whole = (await (await ask(false)).json()) as { choices: { message: { content: string } }[] };
      expect(whole.choices[0]!.message.content).to.equal('Hello.');
      const text = await (await ask(true)).text();
      expect(text)
        .to.contain('"delta":{"content":"Hello."}')
        .and.match(/data: \[DONE\]\n\n$/);
    } finally {
      await model.close();
    }
  });
});
