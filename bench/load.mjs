/* A load of tool calls over so many sessions, each of which calls, waits for the answer, and calls again. */
import { Agent, request } from 'node:http';

/** The flow that is loaded: one step, and a text for an answer. */
export const GREET = `format: pindro/flow@1
name: greet
description: Greets a hut.
input:
  type: object
  required: [hut, party]
  properties: { hut: { type: string }, party: { type: integer } }
steps:
  say: { kind: text, with: { text: "\${ input.party } people are welcome in \${ input.hut }." } }
result: "\${ steps.say.text }"
`;

const agent = new Agent({ keepAlive: true, maxSockets: 64 });

function post(url, headers, body) {
  return new Promise((resolve, reject) => {
    const sent = request(
      url,
      {
        method: 'POST',
        agent,
        headers: {
          'content-type': 'application/json',
          accept: 'application/json, text/event-stream',
          'content-length': Buffer.byteLength(body),
          ...headers,
        },
      },
      (response) => {
        const pieces = [];
        response.on('data', (piece) => pieces.push(piece));
        response.on('end', () =>
          resolve({
            status: response.statusCode,
            session: response.headers['mcp-session-id'],
            text: Buffer.concat(pieces).toString(),
          }),
        );
      },
    );
    sent.on('error', reject);
    sent.end(body);
  });
}

async function openSession(url, headers) {
  const params = { protocolVersion: '2025-11-25', capabilities: {}, clientInfo: { name: 'bench', version: '1' } };
  const { session } = await post(url, headers, JSON.stringify({ jsonrpc: '2.0', id: 0, method: 'initialize', params }));
  const all = { ...headers, 'mcp-session-id': session, 'mcp-protocol-version': '2025-11-25' };
  await post(url, all, JSON.stringify({ jsonrpc: '2.0', method: 'notifications/initialized' }));
  return all;
}

/** @returns sessions that can be loaded again and again */
export async function openSessions(url, headers, count) {
  return Promise.all(Array.from({ length: count }, () => openSession(url, headers)));
}

let nextId = 1;

/**
 * Asks over so many sessions, each of which waits for its answer before it asks again.
 * @param what the method, and its parameters where it has some, as JSON text for each id
 * @returns answers, answers per second, and the 50th and 99th percentile in milliseconds
 */
async function askAll(url, sessions, what, milliseconds, isRight) {
  const times = [];
  const begin = performance.now();
  const end = begin + milliseconds;
  await Promise.all(
    sessions.map(async (headers) => {
      while (performance.now() < end) {
        const id = nextId++;
        const start = performance.now();
        const { status, text } = await post(url, headers, `{"jsonrpc":"2.0","id":${id},"method":${what(id)}}`);
        times.push(performance.now() - start);
        if (status !== 200 || !text.includes(`"id":${id}`) || !isRight(text))
          throw new Error(`a wrong answer: ${status} ${text.slice(0, 200)}`);
      }
    }),
  );
  const took = performance.now() - begin;
  times.sort((a, b) => a - b);
  const percentile = (share) => times[Math.min(times.length - 1, Math.floor(times.length * share))];
  return { calls: times.length, perSecond: (times.length / took) * 1000, p50: percentile(0.5), p99: percentile(0.99) };
}

export const ask = (url, sessions, method, milliseconds, isRight) =>
  askAll(url, sessions, () => method, milliseconds, isRight);

export const load = (url, sessions, tool, milliseconds) =>
  askAll(
    url,
    sessions,
    (id) => `"tools/call","params":{"name":"${tool}","arguments":{"hut":"kestrel","party":${(id % 20) + 1}}}`,
    milliseconds,
    (text) => text.includes('are welcome in kestrel'),
  );
