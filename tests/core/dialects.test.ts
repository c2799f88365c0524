import {
  askModel,
  dialectNamed,
  type FetchPort,
  Masker,
  type ModelConnection,
  modelsOffered,
  type OfferedTool,
  type Turn,
} from '@pindro/core';
import { type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';

/** The core's port over the network of this machine. */
const fetchPort: FetchPort = async ({ method, url, headers, body }, { signal, onPiece }) => {
  const response = await fetch(url, { method, headers, body, signal });
  const { status } = response;
  const named = Object.fromEntries(response.headers);
  if (!onPiece) return { status, headers: named, body: await response.text() };
  const text = new TextDecoder();
  for await (const piece of response.body ?? []) onPiece(text.decode(piece as Uint8Array, { stream: true }));
  return { status, headers: named, body: '' };
};
const KEYS: Record<string, Record<string, string>> = {
  'chat-completions': { authorization: 'Bearer right' },
  messages: { 'x-api-key': 'right' },
  'generate-content': { key: 'right' },
};
const RESERVE: OfferedTool = {
  name: 'reserve_bunks',
  description: 'Reserve bunks in a hut for one night.',
  schema: {
    type: 'object',
    required: ['hut', 'night', 'party'],
    additionalProperties: false,
    properties: {
      hut: { $ref: '#/$defs/hut', description: 'Name of the hut' },
      night: { type: 'string', format: 'date', description: 'First night' },
      board: { $ref: '#/$defs/board' },
      party: { type: ['integer', 'null'], minimum: 1, description: 'How many people' },
    },
    $defs: {
      hut: { type: 'string', enum: ['kestrel', 'larch', 'stonewater'] },
      board: { oneOf: [{ const: 'none' }, { enum: ['half', 'full'] }] },
    },
  },
};
const QUESTION: Turn[] = [
  { role: 'system', text: 'You keep the desk. Today is 2027-02-01.' },
  { role: 'user', text: 'Reserve bunks for 2 people in larch on 2027-02-14.' },
];

for (const dialect of Object.keys(KEYS))
  describe(`the dialect ${dialect}`, () => {
    let model: Model;
    before(async () => {
      model = await startModel({ key: 'right' });
    });
    after(() => model.close());
    const connection = (name = 'house', more: Partial<ModelConnection> = {}): ModelConnection => ({
      ...{ name: 'house', dialect, base: model.url, model: name, credential: 'key', settings: {} },
      ...more,
    });
    const heard: string[] = [];
    const again: string[] = [];
    const way = () => ({
      fetch: fetchPort,
      secrets: {
        reveal: async (name: string) => {
          if (name !== 'key') return { headers: { 'x-none': '1' }, secrets: [] };
          const along = KEYS[dialect]!;
          return { ...('key' in along ? { headers: {}, query: along } : { headers: along }), secrets: [] };
        },
      },
      masker: new Masker(),
      signal: AbortSignal.timeout(20_000),
      onText: (text: string) => void heard.push(text),
      onAgain: ({ why, connection: to }: { why: string; connection: string }) => void again.push(`${to}: ${why}`),
    });
    const ask = (asked = connection(), turns: Turn[] = QUESTION, more: object = {}) =>
      askModel(asked, turns, [RESERVE], { ...way(), ...more });
    const failure = async (work: Promise<unknown>) =>
      (await work.catch((error: unknown) => error)) as {
        code: string;
        message: string;
        hint: string;
        details: { kind?: string };
      };

    it('asks for a call, hands back what came of it, and reads the answer, with tokens', async () => {
      const first = await ask();
      expect(first.end).to.equal('calls');
      expect(first.calls[0]).to.deep.include({
        name: 'reserve_bunks',
        arguments: { hut: 'larch', night: '2027-02-14', party: 2 },
      });
      const id = first.calls[0]!.id;
      heard.length = 0;
      const second = await ask(connection(), [
        ...QUESTION,
        { role: 'assistant', text: '', calls: first.calls },
        { role: 'tool', call: id, name: 'reserve_bunks', text: '{"hut":"larch","party":2}', failed: false },
      ]);
      expect(second.end).to.equal('answer');
      expect(second.text).to.contain('hut larch').and.contain('party 2');
      expect(heard.join('')).to.equal(second.text);
      expect(second.usage.input).to.be.above(first.usage.input);
      const failed = await ask(connection(), [
        ...QUESTION,
        { role: 'assistant', text: '', calls: first.calls },
        { role: 'tool', call: id, name: 'reserve_bunks', text: 'larch is full', failed: true },
      ]);
      expect(failed.text).to.contain('I could not reserve bunks: larch is full');
    });

    it('takes an error inside of a stream for the refusal that it reports, and asks again', async () => {
      again.length = 0;
      const answer = await ask(connection('house-overloaded', { settings: { patience: '20s' } }));
      expect(answer.calls[0]!.name).to.equal('reserve_bunks');
      expect(again.join()).to.contain('Overloaded.');
      const error = await failure(ask(connection('house-overloaded', { settings: { patience: '0s' } })));
      expect([error.code, error.details.kind]).to.deep.equal(['model_refused', 'busy']);
    });

    it('leaves out a setting that the model does not support, says so, and remembers it', async () => {
      again.length = 0;
      const plain = connection('house-plainly', { settings: { temperature: 0.5, max_tokens: 500 } });
      const answer = await ask(plain);
      expect([answer.calls[0]!.name, answer.omitted]).to.deep.equal(['reserve_bunks', ['temperature']]);
      expect(again.join()).to.contain('house-plainly does not support "temperature", which is omitted');
      again.length = 0;
      expect((await ask(plain)).omitted).to.deep.equal(['temperature']);
      expect(again).to.deep.equal([]);
      expect((await ask(connection('house-plainly'))).omitted).to.equal(undefined);
    });

    it('asks once more where the answer after a call is empty', async () => {
      const asked = model.asked.length;
      const error = await failure(
        ask(connection('house-mute'), [
          ...QUESTION,
          { role: 'assistant', text: '', calls: [{ id: 'c1', name: 'reserve_bunks', arguments: { hut: 'larch' } }] },
          { role: 'tool', call: 'c1', name: 'reserve_bunks', text: 'done', failed: false },
        ]),
      );
      expect(error.code).to.equal('model_garbage');
      expect(model.asked.length - asked).to.equal(2);
    });

    it('says which header its server wants, and brings it along once it is set', async () => {
      const strict = await startModel({ key: 'right', wants: 'x-format-version' });
      const wants = (settings: ModelConnection['settings']) => connection('house', { base: strict.url, settings });
      const error = await failure(ask(wants({})));
      expect(error.message).to.contain('x-format-version: header is required');
      expect(error.hint).to.contain('headers.NAME');
      expect((await ask(wants({ headers: { 'x-format-version': '1' } }))).calls).to.have.lengthOf(1);
      await strict.close();
    });

    it('takes an answer that comes at once', async () => {
      const whole = await ask(connection('house', { settings: { stream: false } }), QUESTION);
      expect(whole.calls[0]!.arguments).to.deep.include({ hut: 'larch', party: 2 });
    });

    it('answers in a schema, and is made to use a tool', async () => {
      const schema = {
        type: 'object',
        properties: { hut: { type: 'string', enum: ['larch'] }, party: { type: 'integer' } },
        required: ['hut', 'party'],
      };
      const data = await askModel(connection(), [QUESTION[1]!], [], { ...way(), schema });
      expect(JSON.parse(data.text)).to.deep.equal({ hut: 'larch', party: 2 });
      const made = await ask(connection(), [{ role: 'user', text: 'Sing, larch, 2 of you, 2027-02-14.' }], {
        choice: { tool: 'reserve_bunks' },
      });
      expect(made.calls.map(({ name }) => name)).to.deep.equal(['reserve_bunks']);
    });

    it('hands its thoughts back where it wants them', async () => {
      const first = await ask(connection('house-thinks'));
      expect(first.reasoning?.text).to.contain('Which tool fits?');
      const answer = await ask(connection('house-thinks'), [
        ...QUESTION,
        {
          role: 'assistant',
          text: first.text,
          calls: first.calls,
          ...(first.reasoning && { reasoning: first.reasoning }),
        },
        { role: 'tool', call: first.calls[0]!.id, name: 'reserve_bunks', text: '{"party":2}', failed: false },
      ]);
      expect(answer.text).to.contain('party 2');
    });

    it('lists the models of its server', async () => {
      expect(await modelsOffered(connection(), way())).to.include.members(['house', 'house-busy']);
    });

    it('shows a picture that a tool gave', () => {
      const turns: Turn[] = [
        ...QUESTION,
        { role: 'assistant', text: '', calls: [{ id: 'c1', name: 'look', arguments: {} }] },
        {
          role: 'tool',
          call: 'c1',
          name: 'look',
          text: 'the slope',
          failed: false,
          pictures: [{ type: 'image/png', data: 'aGk=' }],
        },
      ];
      const { body } = dialectNamed(dialect)!.request({
        connection: connection(),
        settings: {},
        turns,
        tools: [],
        choice: 'auto',
      });
      expect(JSON.stringify(body)).to.contain('aGk=').and.contain('image/png').and.contain('the slope');
    });

    const kinds = {
      unpaid: ['unpaid', 'credit'],
      unknown: ['model', 'available'],
      full: ['context', 'request exceeds the context window'],
      busy: ['busy', 'fallback'],
    } as const;
    for (const [fault, [kind, words]] of Object.entries(kinds))
      it(`says what to do where it is ${fault}`, async () => {
        const error = await failure(ask(connection(`house-${fault}`)));
        expect(error).to.include({ code: 'model_refused' });
        expect(error.details.kind).to.equal(kind);
        expect(error.hint).to.contain(words);
      });

    it('is asked again where it is busy for a moment or has a fault, and no longer than its patience', async () => {
      again.length = 0;
      expect((await ask(connection('house-hurried'))).calls).to.have.lengthOf(1);
      expect(again[0]).to.contain('One at a time');
      again.length = 0;
      const begun = Date.now();
      await failure(ask(connection('house-broken', { settings: { patience: '1s' } })));
      expect(Date.now() - begun).to.be.below(3000);
      expect(again).to.have.lengthOf(1);
    });

    it('takes the next key where one is refused, and its fallback where none is left', async () => {
      again.length = 0;
      const keys = connection('house', { name: `spare-${dialect}`, credential: 'wrong', keys: ['key'] });
      expect((await ask(keys)).calls).to.have.lengthOf(1);
      expect(again[0]).to.contain('the key "wrong" was rejected (401)');
      const refused = connection('house', { credential: 'wrong', fallback: 'spare' });
      const none = await failure(ask(refused));
      const where = {
        'chat-completions': 'bearer',
        messages: 'x-api-key',
        'generate-content': 'header x-goog-api-key',
      };
      expect(none.hint).to.contain(where[dialect as keyof typeof where]);
      const answered = await ask(refused, QUESTION, {
        connectionNamed: async () => connection('house', { name: 'spare' }),
      });
      expect(answered.by.name).to.equal('spare');
    });

    it('tells what is no answer, breaks off, is cut at the length or declined', async () => {
      const impatient = { settings: { patience: '0s' } };
      expect(await failure(ask(connection('house-garbled', impatient)))).to.include({ code: 'model_garbage' });
      expect((await failure(ask(connection('house-page', impatient)))).message).to.contain('doctype');
      const cut = await failure(
        ask(connection('house-cut', impatient), [{ role: 'user', text: 'Sing a song about the long way up.' }]),
      );
      expect(cut.code).to.be.oneOf(['model_unreachable', 'model_garbage']);
      expect((await ask(connection('house-short'))).end).to.equal('length');
      const declined = await ask(connection('house-declines'));
      expect(declined).to.include({ end: 'refusal', text: 'I cannot help with that.' });
      expect((await failure(ask(connection('house-mute', impatient)))).message).to.match(/has no text|ended/);
    });

    it('keeps arguments that cannot be read as they were written', async () => {
      const { calls } = await ask(connection('house-unreadable'));
      expect(calls[0]!.unreadable).to.be.a('string');
    });
  });

describe('a schema as a dialect takes it', () => {
  const fit = (dialect: string, schema: object) => dialectNamed(dialect)!.schema(schema as never);
  it('stands without references, and what is refused is told in words', () => {
    const { schema, lost } = fit('generate-content', RESERVE.schema);
    expect(JSON.stringify(schema)).to.not.match(/\$ref|oneOf|additionalProperties|const/);
    expect(schema).to.deep.nested.include({ 'properties.party.type': 'integer', 'properties.party.nullable': true });
    expect(JSON.stringify(schema)).to.contain('A date, as in 2027-02-14.').and.contain('larch');
    expect(lost.join()).to.contain('/night: format date');
  });
  it('puts alternatives on top side by side, and says which go together', () => {
    const either = {
      oneOf: [
        { required: ['hut'], properties: { hut: { type: 'string' } } },
        { required: ['at'], properties: { at: { type: 'string' } } },
      ],
    };
    for (const dialect of Object.keys(KEYS)) {
      const { schema, lost } = fit(dialect, either);
      expect(Object.keys(schema.properties as object)).to.deep.equal(['hut', 'at']);
      expect(schema.description).to.contain('hut; or at');
      expect(lost).to.have.lengthOf(1);
    }
  });
  it('follows what leads into itself only so far', () => {
    const node = { type: 'object', properties: { next: { $ref: '#' } } };
    const { schema, lost } = fit('messages', node);
    expect(JSON.stringify(schema).length).to.be.below(2000);
    expect(lost.join()).to.contain('is recursive');
  });
});

describe('answers as some servers send them', () => {
  const read = (dialect: string, ...events: object[]) => {
    const reader = dialectNamed(dialect)!.reader();
    for (const event of events) reader.push(`data: ${JSON.stringify(event)}\n\n`);
    return reader.end();
  };

  it('may call a function in the form of before there were several', () => {
    const delta = (function_call: object) => ({ choices: [{ delta: { function_call }, finish_reason: null }] });
    const answer = read(
      'chat-completions',
      delta({ name: 'reserve_bunks', arguments: '' }),
      delta({ arguments: '{"hut":' }),
      delta({ arguments: '"larch"}' }),
      { choices: [{ delta: {}, finish_reason: 'function_call' }] },
    );
    expect(answer.end).to.equal('calls');
    expect(answer.calls).to.deep.equal([{ id: 'call_0', name: 'reserve_bunks', arguments: { hut: 'larch' } }]);
  });

  it('go back with thoughts between the calls where they stood', () => {
    const thought = (thinking: string) => ({ type: 'thinking', thinking, signature: thinking });
    const use = (id: string) => ({ type: 'tool_use', id, name: 'note', input: { id } });
    const content = [thought('one'), { type: 'text', text: 'First.' }, use('a'), thought('two'), use('b')];
    const { text, calls, reasoning } = read('messages', {
      type: 'message',
      content,
      stop_reason: 'tool_use',
      usage: {},
    });
    const turn: Turn = { role: 'assistant', text, calls, ...(reasoning && { reasoning }) };
    const asked = { connection: { model: 'x' } as ModelConnection, settings: {}, tools: [], choice: 'auto' as const };
    const { body } = dialectNamed('messages')!.request({ ...asked, turns: [{ role: 'user', text: 'Go' }, turn] });
    expect((body.messages as { content: object }[])[1]!.content).to.deep.equal(content);
  });

  it('may pause, and are continued to their end', async () => {
    const model = await startModel();
    const options = { fetch: fetchPort, secrets: { reveal: async () => ({ headers: {}, secrets: [] }) } };
    const connection = { name: 'house', dialect: 'messages', base: model.url, model: 'house-pauses', credential: null };
    const answer = await askModel({ ...connection, settings: {} }, QUESTION, [], {
      ...{ ...options, masker: new Masker(), signal: AbortSignal.timeout(20_000) },
    });
    expect([answer.text, answer.end]).to.deep.equal(['I look it up.', 'answer']);
    const [first, second] = model.asked.map(({ body }) => (body as { messages: { role: string }[] }).messages);
    expect(second!.slice(0, first!.length)).to.deep.equal(first);
    expect(second!.at(-1)).to.deep.equal({
      role: 'assistant',
      content: [
        { type: 'thinking', thinking: 'Where to?', signature: 'signed-by-the-stand-in' },
        { type: 'text', text: 'I look' },
      ],
    });
    await model.close();
  });
});
