import MessagesClient from '@anthropic-ai/sdk';
import { GoogleGenAI as GenerateContentClient, Type } from '@google/genai';
import { type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import ChatClient from 'openai';

const KEY = 'a-key-of-the-stand-in';
const QUESTION = 'Reserve bunks for 2 people in larch on 2027-02-14.';
const ARGUMENTS = { hut: 'larch', night: '2027-02-14', party: 2 };
const NAME = 'reserve_bunks';
const description = 'Reserve bunks in a hut for one night.';
const schema = {
  type: 'object' as const,
  required: ['hut', 'night', 'party'],
  properties: {
    hut: { type: 'string', enum: ['kestrel', 'larch'] },
    night: { type: 'string', format: 'date' },
    party: { type: 'integer' },
  },
};

describe('the model stand-in with the client libraries of its three formats', () => {
  let model: Model;
  before(async () => {
    model = await startModel({ key: KEY });
  });
  after(() => model.close());

  it('chat-completions: calls, results, streams, usage and wrong keys', async () => {
    const client = new ChatClient({ apiKey: KEY, baseURL: model.url, maxRetries: 0 });
    const tools = [{ type: 'function' as const, function: { name: NAME, description, parameters: schema } }];
    const messages: ChatClient.ChatCompletionMessageParam[] = [{ role: 'user', content: QUESTION }];
    const first = await client.chat.completions.create({ model: 'house', messages, tools });
    const [call] = first.choices[0]!.message.tool_calls as ChatClient.ChatCompletionMessageFunctionToolCall[];
    expect(JSON.parse(call!.function.arguments)).to.deep.equal(ARGUMENTS);
    const { prompt_tokens, completion_tokens, total_tokens } = first.usage!;
    expect(total_tokens).to.equal(prompt_tokens + completion_tokens);
    messages.push(first.choices[0]!.message, { role: 'tool', tool_call_id: call!.id, content: '{"bunk":4}' });
    const stream = client.chat.completions.stream({
      ...{ model: 'house', messages, tools, stream_options: { include_usage: true } },
    });
    const final = await stream.finalChatCompletion();
    expect(final.choices[0]!.message.content).to.contain('bunk 4');
    expect(final.usage!.total_tokens).to.be.above(total_tokens);
    const stranger = new ChatClient({ apiKey: 'wrong', baseURL: model.url, maxRetries: 0 });
    const refused = stranger.chat.completions.create({ model: 'house', messages }).catch((error: unknown) => error);
    expect(await refused).to.be.instanceOf(ChatClient.AuthenticationError);
  });

  it('messages: calls, results, streams, usage and wrong keys', async () => {
    const baseURL = model.url.replace(/\/v1$/, '');
    const client = new MessagesClient({ apiKey: KEY, baseURL, maxRetries: 0 });
    const base = { model: 'house', max_tokens: 500, tools: [{ name: NAME, description, input_schema: schema }] };
    const messages: MessagesClient.MessageParam[] = [{ role: 'user', content: QUESTION }];
    const first = await client.messages.create({ ...base, messages });
    const call = first.content.find((block) => block.type === 'tool_use')!;
    expect([first.stop_reason, call.input]).to.deep.equal(['tool_use', ARGUMENTS]);
    expect(first.usage.input_tokens).to.be.above(0);
    expect(first.usage).to.include({ cache_creation_input_tokens: 0, cache_read_input_tokens: 0 });
    messages.push(
      { role: 'assistant', content: first.content },
      { role: 'user', content: [{ type: 'tool_result', tool_use_id: call.id, content: '{"bunk":4}' }] },
    );
    const final = await client.messages.stream({ ...base, messages }).finalMessage();
    expect(final.content.map((block) => (block.type === 'text' ? block.text : '')).join('')).to.contain('bunk 4');
    expect(final.usage.output_tokens).to.be.above(0);
    const bearer = new MessagesClient({ authToken: KEY, apiKey: null, baseURL, maxRetries: 0 });
    expect((await bearer.messages.create({ ...base, messages })).stop_reason).to.equal('end_turn');
    const stranger = new MessagesClient({ apiKey: 'wrong', baseURL, maxRetries: 0 });
    const refused = stranger.messages.create({ ...base, messages }).catch((error: unknown) => error);
    expect(await refused).to.be.instanceOf(MessagesClient.AuthenticationError);
  });

  it('generate-content: calls, results, streams, usage, and schemas in both forms', async () => {
    const [baseUrl, apiVersion] = model.url.split(/\/(?=v1$)/) as [string, string];
    const client = new GenerateContentClient({ apiKey: KEY, apiVersion, httpOptions: { baseUrl } });
    const upper = {
      type: Type.OBJECT,
      required: schema.required,
      properties: {
        hut: { type: Type.STRING, enum: ['kestrel', 'larch'] },
        night: { type: Type.STRING, format: 'date' },
        party: { type: Type.INTEGER },
      },
    };
    for (const parameters of [
      { parameters: upper },
      { parametersJsonSchema: { ...schema, additionalProperties: false } },
    ]) {
      const config = { tools: [{ functionDeclarations: [{ name: NAME, description, ...parameters }] }] };
      const question = { role: 'user', parts: [{ text: QUESTION }] };
      const first = await client.models.generateContent({ model: 'house', contents: [question], config });
      expect(first.functionCalls![0]!.args).to.deep.equal(ARGUMENTS);
      const { promptTokenCount, candidatesTokenCount, totalTokenCount } = first.usageMetadata!;
      expect(totalTokenCount).to.equal(promptTokenCount! + candidatesTokenCount!);
      const result = { functionResponse: { name: NAME, response: { result: '{"bunk":4}' } } };
      const contents = [question, first.candidates![0]!.content!, { role: 'user', parts: [result] }];
      let text = '';
      for await (const chunk of await client.models.generateContentStream({ model: 'house', contents, config }))
        text += chunk.text ?? '';
      expect(text).to.contain('bunk 4');
    }
    const stranger = new GenerateContentClient({ apiKey: 'wrong', apiVersion, httpOptions: { baseUrl } });
    const refused = (await stranger.models
      .generateContent({ model: 'house', contents: QUESTION })
      .catch((error: unknown) => error)) as { status: number };
    expect(refused.status).to.equal(401);
  });
});
