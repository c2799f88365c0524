/*
 * The longest time for which a second client's call is not answered while one caller sends hostile bodies of 1 MiB, less
 * the same with harmless bodies of that size. The sender is a process of its own: whoever measures must not be busy.
 */
import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { startReady } from './process.mjs';

const PINDRO = fileURLToPath(new URL('../packages/cli/bin/pindro.js', import.meta.url));
const MIB = 1024 * 1024;
const BAR = 100;
const FLOWS = {
  small: 'steps:\n  say: { kind: text, with: { text: hello } }\nresult: "${ steps.say.text }"\n',
  takes:
    'input: { type: object, additionalProperties: false, properties: { list: { type: array, uniqueItems: true, items: { type: object, required: [n], properties: { n: { type: integer }, t: { type: string, pattern: "^(a+)+$" } } } }, text: { type: string, maxLength: 2000000 } } }\nsteps:\n  say: { kind: text, with: { text: hello } }\nresult: "${ steps.say.text }"\n',
};
/** Repeats a text until it fills so many characters. */
const fill = (piece, size = MIB - 2048) => piece.repeat(Math.floor(size / piece.length));
const nested = (levels, body, first) => {
  let text = `x${levels}`;
  for (let n = levels; n > 0; n--) text = `cel.bind(x${n}, ${body(n === 1 ? first : `x${n - 1}`)}, ${text})`;
  return text;
};
const rpc = (name, args) =>
  `{"jsonrpc":"2.0","id":1,"method":"tools/call","params":{"name":${JSON.stringify(name)},"arguments":${args}}}`;

/** Bodies by name: where they go and what they hold. */
function bodies() {
  const wrong = `{"list":[${fill('0,').slice(0, -1)}]}`;
  const unknown = `{${Array.from({ length: 80_000 }, (_, index) => `"name${index}":1`).join()}}`;
  const objects = `{"list":[${Array.from({ length: 60_000 }, (_, n) => `{"n":${n}}`).join()}]}`;
  const bomb = (expression) => JSON.stringify({ value: `\${ ${expression} }`, input: {}, steps: {} });
  return {
    'wrong values to an endpoint': ['/mcp/bench', rpc('takes', wrong)],
    'unknown arguments to an endpoint': ['/mcp/bench', rpc('takes', unknown)],
    'a list of different objects to an endpoint': ['/mcp/bench', rpc('takes', objects)],
    'a slow pattern to an endpoint': ['/mcp/bench', rpc('takes', `{"list":[{"n":1,"t":"${fill('a')}!"}]}`)],
    'a long tool name to an endpoint': ['/mcp/bench', rpc(fill('n'), '{}')],
    'wrong values to a hook': ['/hooks/bench', wrong],
    'unknown inputs to a hook': ['/hooks/bench', unknown],
    'wrong values to the API': ['/api/v1/flows/takes/run', `{"input":${wrong}}`],
    'a doubling expression': ['/api/v1/flows/evaluate', bomb(nested(26, (x) => `${x}+${x}`, '[1]'))],
    'a nesting expression': ['/api/v1/flows/evaluate', bomb(nested(26, (x) => `[${x},${x}]`, '[1]'))],
    'an expression with large types': ['/api/v1/flows/evaluate', bomb(nested(22, (x) => `{${x}:${x}}`, '{1:1}'))],
    'large types to the check': [
      '/api/v1/flows/preview',
      JSON.stringify({
        document: `format: pindro/flow@1\nname: bomb\nsteps:\n  a: { kind: shape, with: { value: ${JSON.stringify(`\${ ${nested(22, (x) => `{${x}:${x}}`, '{1:1}')} }`)} } }\n`,
      }),
    ],
  };
}

/** Posts a file some times from a process of its own. */
function post(url, headers, file, times) {
  const code = `const body = require('node:fs').readFileSync(${JSON.stringify(file)});
(async () => { let told = '';
for (let n = 0; n < ${times}; n++) {
  const response = await fetch(${JSON.stringify(url)}, { method: 'POST', headers: ${JSON.stringify(headers)}, body });
  told = response.status + ': ' + (await response.text()).slice(0, 200); }
console.log(told); })().catch((error) => console.log(String(error.cause ?? error)));`;
  return new Promise((resolve) => execFile(process.execPath, ['-e', code], (_error, out) => resolve(out.trim())));
}

export async function hostileBlock(say) {
  const data = mkdtempSync(join(tmpdir(), 'pindro-bench-'));
  const service = await startReady([PINDRO, 'serve', '--json', '--port', '0', '--data', data]);
  const { url, apiKey } = service.ready;
  const headers = { authorization: `Bearer ${apiKey}`, 'content-type': 'application/json' };
  const api = async (path, body) => {
    const response = await fetch(`${url}/api/v1${path}`, { method: 'POST', headers, body: JSON.stringify(body) });
    if (!response.ok) throw new Error(`${path}: ${await response.text()}`);
    return response.json();
  };
  let longest = 0;
  let beating = true;
  const beat = async (mcpHeaders) => {
    for (let id = 1; beating; id++) {
      const begun = performance.now();
      const body = rpc('small', '{}').replace('"id":1', `"id":${id}`);
      await fetch(`${url}/mcp/bench`, { method: 'POST', headers: mcpHeaders, body }).then((answer) => answer.text());
      longest = Math.max(longest, performance.now() - begun);
      await new Promise((resolve) => setTimeout(resolve, 2));
    }
  };
  let beats = Promise.resolve();
  try {
    let key = '';
    for (const [name, flow] of Object.entries(FLOWS)) {
      await api('/flows', { document: `format: pindro/flow@1\nname: ${name}\n${flow}` });
      ({ key } = await api(`/flows/${name}/expose`, { endpoint: 'bench', caller: 'bench' }));
    }
    await api('/entries', { flow: 'takes', path: 'bench', settings: { kind: 'hook', guard: 'open', perMinute: 6000 } });
    const mcpHeaders = { ...headers, authorization: `Bearer ${key}`, accept: 'application/json' };
    const file = join(data, 'body.json');
    const measure = async (path, body) => {
      writeFileSync(file, body);
      longest = 0;
      const told = await post(`${url}${path}`, path.startsWith('/mcp') ? mcpHeaders : headers, file, 3);
      return { longest, told };
    };
    beats = beat(mcpHeaders);
    await new Promise((resolve) => setTimeout(resolve, 500));
    const quiet = [];
    for (const path of ['/mcp/bench', '/hooks/bench', '/api/v1/flows/takes/run']) {
      const text = `{"text":"${fill('a quiet text ')}"}`;
      const body = path.startsWith('/mcp') ? rpc('takes', text) : path.startsWith('/api') ? `{"input":${text}}` : text;
      quiet.push((await measure(path, body)).longest);
    }
    const harmless = quiet.sort((a, b) => a - b)[1];
    say(`harmless bodies: ${quiet.map(Math.round).join(', ')} ms`);
    let worst = 0;
    for (const [name, [path, body]] of Object.entries(bodies())) {
      const { longest: took, told } = await measure(path, body);
      worst = Math.max(worst, took - harmless);
      say(`${name}: ${Math.round(took)} ms, answered ${told.slice(0, 140)}`);
    }
    const ours = Math.max(1, Math.round(worst));
    return { name: 'hostile-block', ours, reference: BAR, unit: 'ms', ratio: BAR / ours };
  } finally {
    beating = false;
    await beats.catch(() => {});
    await service.stop();
    rmSync(data, { recursive: true, force: true });
  }
}
