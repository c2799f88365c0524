/*
 * Many clients at once: 500 keys with an open session, an open stream and calls in each; how soon 500 clients of the
 * protocol's own SDK have listed their tools again after a change; and a list of 200 tools beside the hand-written server.
 */
import { fork } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { get } from 'node:http';
import { fileURLToPath } from 'node:url';
import { createClient } from '../packages/contract/dist/index.js';
import { ask, GREET, load, openSessions } from './load.mjs';
import { startReady } from './process.mjs';
import { withService } from './service.mjs';

const REFERENCE = fileURLToPath(new URL('./reference-server.mjs', import.meta.url));
const CLIENTS = fileURLToPath(new URL('./notify-clients.mjs', import.meta.url));
const MANY = 500;
const CLIENT_PROCESSES = 4;
const AT_ONCE = 25;

const resident = (pid) => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))[1]) / 1024;
const rest = (ms) => new Promise((resolve) => setTimeout(resolve, ms));

const withPindro = (work) =>
  withService(async ({ url, apiKey, pid }) => {
    const api = createClient({ url, key: apiKey });
    await api.importFlow({ body: { document: GREET } });
    await api.exposeFlow({ name: 'greet', body: { endpoint: 'bench' } });
    return work({ api, pid, url: `${url}/mcp/bench` });
  });

/** Does something for each of many, some at the same time. */
async function forEach(count, work) {
  const made = [];
  for (let start = 0; start < count; start += AT_ONCE)
    made.push(
      ...(await Promise.all(Array.from({ length: Math.min(AT_ONCE, count - start) }, (_, i) => work(start + i)))),
    );
  return made;
}
const keysFor = (api, count) =>
  forEach(
    count,
    async (index) => (await api.issueKey({ body: { name: `client-${index}`, endpoints: ['bench'] } })).key,
  );

/** An open stream on which a session hears of changes. */
const listen = (url, headers) =>
  new Promise((resolve, reject) => {
    const sent = get(url, { agent: false, headers: { accept: 'text/event-stream', ...headers } }, (response) => {
      response.resume();
      if (response.statusCode === 200) resolve(sent);
      else reject(new Error(`a stream was answered with ${response.statusCode}`));
    });
    sent.on('error', () => {});
  });

export const sessions500 = (say) =>
  withPindro(async ({ api, url, pid }) => {
    const keys = await keysFor(api, MANY);
    // What calls need in any case, and the collector's habits, are not the sessions' to answer for.
    const [first] = await openSessions(url, { authorization: `Bearer ${keys[0]}` }, 1);
    await load(url, [first], 'greet', 3000);
    await rest(1500);
    const before = resident(pid);
    const sessions = (
      await forEach(MANY, (index) => openSessions(url, { authorization: `Bearer ${keys[index]}` }, 1))
    ).flat();
    const streams = await forEach(MANY, (index) => listen(url, sessions[index]));
    const sizes = [];
    let calls = 0;
    for (let round = 1; round <= 5; round++) {
      calls += (await load(url, sessions, 'greet', 4000)).calls;
      await rest(1500);
      sizes.push(Math.round(resident(pid) - before));
    }
    for (const stream of streams) stream.destroy();
    say(
      `${MANY} sessions with streams, ${calls} calls without an error; added memory after each round: ${sizes.join(', ')} MB`,
    );
    const ours = sizes.at(-1);
    return { name: 'sessions-500', ours, reference: 100, unit: 'MB', ratio: 100 / Math.max(1, ours), calls };
  });

/** The next message of a process that fits. */
const message = (child, fits) =>
  new Promise((resolve, reject) => {
    const hear = (told) => {
      if (!fits(told)) return;
      child.off('message', hear);
      resolve();
    };
    child.on('message', hear);
    child.once('exit', (code) => reject(new Error(`a process of clients ended with code ${code}`)));
  });

export const notify500 = (say) =>
  withPindro(async ({ api, url }) => {
    const keys = await keysFor(api, MANY);
    const share = MANY / CLIENT_PROCESSES;
    const children = Array.from({ length: CLIENT_PROCESSES }, () => fork(CLIENTS));
    try {
      await Promise.all(
        children.map((child, index) => {
          child.send({ url, keys: keys.slice(index * share, (index + 1) * share) });
          return message(child, ({ listening }) => listening);
        }),
      );
      const times = [];
      for (let round = 1; round <= 5; round++) {
        await rest(1000);
        const [{ name }] = (await api.getEndpoint({ name: 'bench' })).toolList;
        const fresh = `welcome_${round}`;
        const all = Promise.all(children.map((child) => message(child, ({ listed }) => listed === fresh)));
        const start = performance.now();
        await api.describeTool({ name: 'bench', tool: name, body: { name: fresh } });
        await all;
        times.push(performance.now() - start);
      }
      const shown = times.map((time) => Math.round(time)).join(', ');
      say(`all ${MANY} clients, in ${CLIENT_PROCESSES} processes, listed again after ${shown} ms`);
      const ours = Math.round(times.toSorted((a, b) => a - b)[2]);
      return { name: 'notify-500', ours, reference: 1000, unit: 'ms', ratio: 1000 / ours };
    } finally {
      for (const child of children) child.kill();
    }
  });

export const toolsList200 = (say) =>
  withPindro(async ({ api, url }) => {
    const tools = Object.fromEntries(Array.from({ length: 199 }, (_, index) => [`greet_${index}`, { flow: 'greet' }]));
    await api.addTools({ name: 'bench', body: { tools } });
    const reference = await startReady([REFERENCE, '--json', '--tools', '200']);
    try {
      const [key] = await keysFor(api, 1);
      const sides = {
        pindro: { url, sessions: await openSessions(url, { authorization: `Bearer ${key}` }, 8) },
        reference: { url: reference.ready.url, sessions: await openSessions(reference.ready.url, {}, 8) },
      };
      const rounds = { pindro: [], reference: [] };
      for (let round = 0; round <= 3; round++)
        for (const [name, side] of Object.entries(sides)) {
          const result = await ask(
            side.url,
            side.sessions,
            '"tools/list"',
            2000,
            (text) => text.split('"inputSchema"').length === 201,
          );
          if (round > 0) rounds[name].push(result.perSecond);
        }
      const middle = (values) => values.toSorted((a, b) => a - b)[1];
      const [ours, theirs] = [middle(rounds.pindro), middle(rounds.reference)];
      say(
        `lists of 200 tools a second: ${rounds.pindro.map(Math.round).join(', ')} against ${rounds.reference.map(Math.round).join(', ')}`,
      );
      return {
        name: 'tools-list-200',
        ours: Math.round(ours),
        reference: Math.round(theirs),
        unit: 'lists/s',
        ratio: ours / theirs,
      };
    } finally {
      await reference.stop();
    }
  });
