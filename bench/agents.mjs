/* Agents: what a round costs beside the model and the tools, many at once, and how soon a word is there. */
import { createServer } from 'node:http';
import { createClient } from '../packages/contract/dist/index.js';
import { withService } from './service.mjs';

const BAR = { round: 3, many: 1.3, word: 50 };
const ROUNDS = 20;
const DESK = `format: pindro/flow@1
name: desk
input: { type: object, properties: { message: { type: string } } }
steps:
  desk: { kind: agent, with: { model: house, message: "\${ input.message }", built_in: { calculate: true }, limits: { rounds: 100, tokens: 1000000 } } }
result: "\${ steps.desk.answer }"
`;
const middle = (values) => values.toSorted((a, b) => a - b)[Math.floor(values.length / 2)];

/** A model that answers what it is told to, at once or later. @param answer (count of results so far) → { call } or { text } */
async function model(answer, { delay = 0, onWord = () => {} } = {}) {
  const server = createServer((request, response) => {
    let body = '';
    request.on('data', (piece) => (body += piece));
    request.on('end', async () => {
      const { messages } = JSON.parse(body);
      const last = messages.findLastIndex(({ role }) => role === 'user');
      const { call, text = '' } = answer(messages.slice(last).filter(({ role }) => role === 'tool').length);
      if (delay) await new Promise((resolve) => setTimeout(resolve, delay));
      const send = (delta, finish_reason = null) =>
        response.write(`data: ${JSON.stringify({ choices: [{ index: 0, delta, finish_reason }] })}\n\n`);
      response.writeHead(200, { 'content-type': 'text/event-stream' });
      if (call) {
        const made = { name: 'calculate', arguments: JSON.stringify(call) };
        send({ tool_calls: [{ index: 0, id: 'c', type: 'function', function: made }] });
      } else {
        onWord();
        send({ content: text });
        if (text === 'word') await new Promise((resolve) => setTimeout(resolve, 100));
      }
      send({}, call ? 'tool_calls' : 'stop');
      response.end('data: [DONE]\n\n');
    });
  });
  await new Promise((resolve) => server.listen(0, '127.0.0.1', resolve));
  return {
    url: `http://127.0.0.1:${server.address().port}`,
    close: () => server.closeAllConnections() || server.close(),
  };
}

async function withDesk(there, work, ...options) {
  try {
    return await withService(
      async ({ url, apiKey }) => {
        const api = createClient({ url, key: apiKey });
        await api.addModel({ body: { name: 'house', base: there.url, model: 'm', skipTest: true } });
        await api.importFlow({ body: { document: DESK } });
        return work(api);
      },
      ...options,
    );
  } finally {
    there.close();
  }
}
const talk = (api) => api.runFlow({ name: 'desk', body: { input: { message: 'hello' } } });

export async function agentRound(say) {
  const there = await model((count) =>
    count < ROUNDS ? { call: { expression: `${count} + 1` } } : { text: 'Larch lies high.' },
  );
  /** What asking costs by itself. */
  const bare = async () => {
    const body = JSON.stringify({ messages: [{ role: 'user', content: 'hello' }] });
    const begun = performance.now();
    for (let turn = 0; turn < 100; turn++) await (await fetch(there.url, { method: 'POST', body })).text();
    return (performance.now() - begun) / 100;
  };
  return withDesk(there, async (api) => {
    await talk(api);
    const times = [];
    for (let round = 0; round < 15; round++) {
      const asking = await bare();
      const begun = performance.now();
      await talk(api);
      times.push((performance.now() - begun) / (ROUNDS + 1) - asking);
    }
    const ours = Number(middle(times).toFixed(2));
    say(
      `${ours} ms a round: a model asked, a sum worked out, the journal and the trace written, beside the asking itself`,
    );
    return { name: 'agent-round', ours, reference: BAR.round, unit: 'ms', ratio: BAR.round / ours };
  });
}

export async function agents200(say) {
  const there = await model(() => ({ text: 'Larch lies high.' }), { delay: 1000 });
  return withDesk(
    there,
    async (api) => {
      const all = async () => {
        const begun = performance.now();
        await Promise.all(Array.from({ length: 200 }, () => talk(api)));
        return Number(((performance.now() - begun) / 1000).toFixed(2));
      };
      const first = await all();
      // A service is not started for each of them.
      const ours = middle([await all(), await all(), await all()]);
      say(`200 agents at once took ${ours} s with a model that takes one; ${first} s right after the start`);
      return { name: 'agents-200', ours, reference: BAR.many, unit: 's', ratio: BAR.many / ours };
    },
    '--runs-at-once',
    '400',
  );
}

export async function streamFirstWord(say) {
  let said = 0;
  const there = await model(() => ({ text: 'word' }), { onWord: () => (said = performance.now()) });
  return withDesk(there, async (api) => {
    const times = [];
    for (let round = 0; round < 21; round++)
      for await (const event of api.watchFlow({ name: 'desk', body: { input: { message: 'hello' }, entry: 'chat' } }))
        if (event.type === 'live' && event.live.kind === 'text') times.push(performance.now() - said);
    const ours = Number(middle(times).toFixed(1));
    say(`a word is with whoever listens after ${ours} ms, at most ${Math.max(...times).toFixed(1)} ms`);
    return { name: 'stream-first-word', ours, reference: BAR.word, unit: 'ms', ratio: BAR.word / ours };
  });
}
