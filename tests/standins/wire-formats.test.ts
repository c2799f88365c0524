import { type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';

const KEY = 'a-key-of-the-stand-in';
const QUESTION = 'Reserve bunks for 2 people in larch on 2027-02-14.';
const ARGUMENTS = { hut: 'larch', night: '2027-02-14', party: 2 };
const NAME = 'reserve_bunks';
const RESULT = '{"bunk":4}';
const description = 'Reserve bunks in a hut for one night.';
const schema = {
  type: 'object',
  required: ['hut', 'night', 'party'],
  properties: {
    hut: { type: 'string', enum: ['kestrel', 'larch'] },
    night: { type: 'string', format: 'date' },
    party: { type: 'integer' },
  },
};
/** Names of types as one of the formats also writes them. */
const upper = JSON.parse(
  JSON.stringify(schema).replace(/"type":"(\w+)"/g, (_, type) => `"type":"${type.toUpperCase()}"`),
);

// biome-ignore lint/suspicious/noExplicitAny: answers of three wire formats
type Answer = any;

describe('the wire formats of the model stand-in, byte by byte', () => {
  let model: Model;
  before(async () => {
    model = await startModel({ key: KEY });
  });
  after(() => model.close());

  const post = (path: string, headers: Record<string, string>, body: object) =>
    fetch(`${model.url}${path}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', ...headers },
      body: JSON.stringify(body),
    });
  const whole = async (path: string, headers: Record<string, string>, body: object): Promise<Answer> => {
    const response = await post(path, headers, body);
    expect(response.status, await response.clone().text()).to.equal(200);
    return response.json();
  };
  /** The data of the server-sent events of a streamed answer. */
  const events = async (path: string, headers: Record<string, string>, body: object): Promise<Answer[]> => {
    const response = await post(path, headers, body);
    expect(response.headers.get('content-type')).to.match(/^text\/event-stream/);
    const lines = (await response.text()).split(/\r?\n/).filter((line) => line.startsWith('data:'));
    return lines.map((line) => line.slice(5).trim()).flatMap((data) => (data === '[DONE]' ? [] : [JSON.parse(data)]));
  };

  it('chat-completions: calls, results, streams, usage and wrong keys', async () => {
    const [path, headers] = ['/chat/completions', { authorization: `Bearer ${KEY}` }];
    const tools = [{ type: 'function', function: { name: NAME, description, parameters: schema } }];
    const messages: object[] = [{ role: 'user', content: QUESTION }];
    const first = await whole(path, headers, { model: 'house', messages, tools });
    const [choice] = first.choices;
    expect(choice.finish_reason).to.equal('tool_calls');
    const [call] = choice.message.tool_calls;
    expect(JSON.parse(call.function.arguments)).to.deep.equal(ARGUMENTS);
    const { prompt_tokens, completion_tokens, total_tokens } = first.usage;
    expect(total_tokens).to.equal(prompt_tokens + completion_tokens);
    messages.push(choice.message, { role: 'tool', tool_call_id: call.id, content: RESULT });
    const asked = { model: 'house', messages, tools, stream: true, stream_options: { include_usage: true } };
    const pieces = await events(path, headers, asked);
    expect(pieces.map(({ choices }) => choices[0]?.delta?.content ?? '').join('')).to.contain('bunk 4');
    expect(pieces.findLast(({ choices }) => choices.length > 0).choices[0].finish_reason).to.equal('stop');
    expect(pieces.at(-1).usage.total_tokens).to.be.above(total_tokens);
    expect((await post(path, { authorization: 'Bearer wrong' }, asked)).status).to.equal(401);
  });

  it('messages: calls, results, streams, usage and wrong keys', async () => {
    const [path, headers] = ['/messages', { 'x-api-key': KEY }];
    const base = { model: 'house', max_tokens: 500, tools: [{ name: NAME, description, input_schema: schema }] };
    const messages: object[] = [{ role: 'user', content: QUESTION }];
    const first = await whole(path, headers, { ...base, messages });
    const call = first.content.find((block: Answer) => block.type === 'tool_use');
    expect([first.stop_reason, call.input]).to.deep.equal(['tool_use', ARGUMENTS]);
    expect(first.usage.input_tokens).to.be.above(0);
    expect(first.usage).to.include({ cache_creation_input_tokens: 0, cache_read_input_tokens: 0 });
    messages.push(
      { role: 'assistant', content: first.content },
      { role: 'user', content: [{ type: 'tool_result', tool_use_id: call.id, content: RESULT }] },
    );
    const pieces = await events(path, headers, { ...base, messages, stream: true });
    expect(pieces.map(({ delta }) => delta?.text ?? '').join('')).to.contain('bunk 4');
    expect([pieces[0].type, pieces.at(-1).type]).to.deep.equal(['message_start', 'message_stop']);
    expect(pieces.find(({ type }) => type === 'message_delta').usage.output_tokens).to.be.above(0);
    const bearer = await whole(path, { authorization: `Bearer ${KEY}` }, { ...base, messages });
    expect(bearer.stop_reason).to.equal('end_turn');
    const refused = await post(path, { 'x-api-key': 'wrong' }, { ...base, messages });
    expect([refused.status, ((await refused.json()) as Answer).error.type]).to.deep.equal([
      401,
      'authentication_error',
    ]);
  });

  it('generate-content: calls, results, streams, usage, and schemas in both forms', async () => {
    const [path, headers] = ['/models/house', { 'x-goog-api-key': KEY }];
    for (const parameters of [
      { parameters: upper },
      { parametersJsonSchema: { ...schema, additionalProperties: false } },
    ]) {
      const tools = [{ functionDeclarations: [{ name: NAME, description, ...parameters }] }];
      const question = { role: 'user', parts: [{ text: QUESTION }] };
      const first = await whole(`${path}:generateContent`, headers, { contents: [question], tools });
      const [candidate] = first.candidates;
      const { functionCall } = candidate.content.parts.find((part: Answer) => part.functionCall);
      expect(functionCall.args).to.deep.equal(ARGUMENTS);
      const { promptTokenCount, candidatesTokenCount, totalTokenCount } = first.usageMetadata;
      expect(totalTokenCount).to.equal(promptTokenCount + candidatesTokenCount);
      const result = { functionResponse: { name: NAME, response: { result: RESULT } } };
      const contents = [question, candidate.content, { role: 'user', parts: [result] }];
      const pieces = await events(`${path}:streamGenerateContent?alt=sse`, headers, { contents, tools });
      const text = pieces.flatMap(({ candidates }) => candidates[0].content.parts).map((part) => part.text ?? '');
      expect(text.join('')).to.contain('bunk 4');
    }
    const wrong = { contents: [{ role: 'user', parts: [{ text: QUESTION }] }] };
    expect((await post(`${path}:generateContent`, { 'x-goog-api-key': 'wrong' }, wrong)).status).to.equal(401);
  });
});
