/*
 * The longest block of the service's event loop while one caller sends hostile bodies of 1 MiB, less the same with harmless
 * bodies of that size. A separate process sends the bodies, so that sending does not delay the measurement.
 */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { watched } from './loop.mjs';
import { sendFile } from './second-client.mjs';
import { withServiceOf } from './service.mjs';

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
  const unknown = `{${Array.from({ length: 72_000 }, (_, index) => `"name${index}":1`).join()}}`;
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
    'a draft of too many steps': [
      '/api/v1/flows/preview',
      JSON.stringify({ document: many('flow', 'steps', '{ kind: none }') }),
    ],
    'an endpoint of too many tools': [
      '/api/v1/endpoints',
      JSON.stringify({ document: many('endpoint', 'tools', '{ flow: none }') }),
    ],
    'a broken file of a workspace': [
      '/api/v1/workspace',
      JSON.stringify({ files: { 'flows/x.yaml': `${many('flow', 'steps', '{ kind: none }')}\n: [` } }),
    ],
    'long files to compare with a workspace': [
      '/api/v1/workspace/compare',
      JSON.stringify({ files: { 'flows/takes.yaml': lines('some'), 'flows/small.yaml': lines('other') } }),
    ],
    'a bundle of too many flows': [
      '/api/v1/bundles/preview',
      JSON.stringify({
        document: `format: pindro/bundle@1\nflow: x\nflows:\n${Array.from({ length: 30_000 }, (_, n) => `  - { name: f${n} }`).join('\n')}\n`,
      }),
    ],
    'braces as a bundle': ['/api/v1/bundles', JSON.stringify({ document: '{'.repeat(500_000) })],
    ...pasted(),
    'large types to the check': [
      '/api/v1/flows/preview',
      JSON.stringify({
        document: `format: pindro/flow@1\nname: bomb\nsteps:\n  a: { kind: shape, with: { value: ${JSON.stringify(`\${ ${nested(22, (x) => `{${x}:${x}}`, '{1:1}')} }`)} } }\n`,
      }),
    ],
  };
}

/** Texts that somebody pastes to attach a server. */
function pasted() {
  const understand = (text) => ['/api/v1/servers/understand', JSON.stringify({ text })];
  const servers = Array.from({ length: 8000 }, (_, n) => `"s${n}":{"url":"http://127.0.0.1:9/${n}"}`).join();
  return {
    'spaces to be understood': understand(`${' '.repeat(490_000)}x`),
    'spaces in a command to be understood': understand(`npx ${' '.repeat(490_000)}x`),
    'braces to be understood': understand('{"a":'.repeat(50_000)),
    'brackets to be understood': understand(`{"a":${'['.repeat(200_000)}`),
    'open tags to be understood': understand(`npx ${'<'.repeat(490_000)}`),
    'servers to be understood': understand(`{"mcpServers":{${servers}}}`),
    'a long address to be understood': understand(`https://${'a.'.repeat(240_000)}example`),
    'a long catalogue': [
      '/api/v1/servers/catalogue',
      JSON.stringify({ text: '{"servers":'.repeat(90_000), words: 'x' }),
    ],
  };
}

/** A document of 30,000 things. */
const many = (format, what, thing) =>
  `format: pindro/${format}@1\nname: x\n${what}:\n${Array.from({ length: 30_000 }, (_, n) => `  s${n}: ${thing}`).join('\n')}\n`;
const lines = (word) => Array.from({ length: 30_000 }, (_, n) => `${word} line ${n}`).join('\n');

export const hostileBlock = (say) => {
  const loop = watched();
  return withServiceOf(loop.node, (service) => measureAll(service, loop, say)).finally(loop.close);
};

async function measureAll({ url, headers, post, data, pid }, loop, say) {
  let key = '';
  for (const [name, flow] of Object.entries(FLOWS)) {
    await post('/flows', { document: `format: pindro/flow@1\nname: ${name}\n${flow}` });
    ({ key } = await post(`/flows/${name}/expose`, { endpoint: 'bench', caller: 'bench' }));
  }
  await post('/entries', { flow: 'takes', path: 'bench', settings: { kind: 'hook', guard: 'open', perMinute: 6000 } });
  const mcpHeaders = { ...headers, authorization: `Bearer ${key}`, accept: 'application/json' };
  const file = join(data, 'body.json');
  const measure = async (path, body) => {
    writeFileSync(file, body);
    await loop.longest(pid);
    const told = await sendFile(`${url}${path}`, path.startsWith('/mcp') ? mcpHeaders : headers, file, 3);
    return { longest: await loop.longest(pid), told };
  };
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
    say(`${name}: ${Math.round(took)} ms, answered ${told}`);
  }
  const ours = Math.max(1, Math.round(worst));
  return { name: 'hostile-block', ours, reference: BAR, unit: 'ms', ratio: BAR / ours };
}
