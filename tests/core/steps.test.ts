import { checkFlow, type FetchRequest, type Json, requireFlow, runFlow } from '@pindro/core';
import { runScript } from '@pindro/core/sandbox';
import { expect } from 'chai';
import { used } from '../support/patience.js';
import { answer, flow, journalOf, modelAt, run, spansOf, testPorts, web } from '../support/ports.js';
import { scriptedModel } from '../support/scripted-model.js';

/** Runs one step and gives its whole output. */
async function output(step: string, parts: Parameters<typeof testPorts>[0] = {}, input: Json = {}): Promise<never> {
  const ports = testPorts(parts);
  const outcome = await run(flow(`  s: ${step}`, 'input: { type: object }\nresult: "${ steps.s }"'), input, ports);
  if (outcome.error) throw Object.assign(new Error(outcome.error.message), outcome.error);
  return outcome.result as never;
}
async function failure(work: Promise<unknown>): Promise<{ code: string; message: string; at?: string }> {
  return work.then(
    (value) => expect.fail(`it worked: ${JSON.stringify(value)}`),
    (error) => error,
  );
}

describe('the step kind shape', () => {
  it('makes new data by expression and keeps types', async () => {
    const input = {
      rows: [
        { hut: 'larch', party: 4 },
        { hut: 'kestrel', party: 2 },
      ],
    };
    expect(
      await output(
        '{ kind: shape, with: { value: { huts: "${ input.rows.map(r, r.hut) }", total: "${ input.rows.map(r, r.party).sum() }", fixed: [1, "x"] } } }',
        {},
        input,
      ),
    ).to.deep.equal({ value: { huts: ['larch', 'kestrel'], total: 6, fixed: [1, 'x'] } });
  });
});

describe('the step kind each', () => {
  const loop = (rest: string) => `{ kind: each, with: { list: "\${ input.list }", ${rest} } }`;

  it('does its steps for each item, which they see with its place, and keeps what is asked', async () => {
    const done = await output(
      loop(
        'steps: { twice: { kind: shape, with: { value: "${ item * 2 }" } }, say: { kind: text, after: [twice], with: { text: "${ index }: ${ steps.twice.value }" } } }, result: "${ steps.say.text }"',
      ),
      {},
      { list: [1, 2, 3] },
    );
    expect(done).to.deep.equal({ results: ['0: 2', '1: 4', '2: 6'], count: 3, failed: [], failures: 0 });
  });

  it('works at most so many at once, and keeps the order of the results', async () => {
    let now = 0;
    let most = 0;
    const fetch = async ({ url }: FetchRequest) => {
      most = Math.max(most, ++now);
      await new Promise((resolve) => setTimeout(resolve, url.endsWith('0') ? 20 : 2));
      now--;
      return { status: 200, headers: {}, body: url.slice(-1) };
    };
    const done = await output(
      loop(
        'at_once: 3, steps: { get: { kind: http, with: { url: "http://web.test/${ item }" } } }, result: "${ steps.get.body }"',
      ),
      { fetch },
      { list: [0, 1, 2, 3, 4, 5, 6] },
    );
    expect(most).to.equal(3);
    expect((done as { results: string[] }).results).to.deep.equal(['0', '1', '2', '3', '4', '5', '6']);
  });

  const odd = 'steps: { no: { kind: stop, with: { as: failed, message: "not ${ item }" } } }';
  it('stops at the first failed item and says which', async () => {
    expect(await failure(output(loop(odd), {}, { list: ['a', 'b'] }))).to.include({
      code: 'loop_failed',
      message: '1 of 2 items failed, first item 1: not a',
      at: '/steps/s/with/steps/no',
    });
  });

  it('collects failures where that is wanted', async () => {
    expect(await output(loop(`on_failure: collect, ${odd}`), {}, { list: ['a', 'b'] })).to.deep.equal({
      results: [],
      count: 2,
      failures: 2,
      failed: [
        { index: 0, code: 'stopped_as_failed', message: 'not a' },
        { index: 1, code: 'stopped_as_failed', message: 'not b' },
      ],
    });
  });

  it('calls a flow for each item', async () => {
    const documents = {
      double: flow(
        '  x: { kind: shape, with: { value: "${ input.n * 2 }" } }',
        'input: { type: object, properties: { n: { type: integer } } }\nresult: "${ steps.x.value }"',
        'double',
      ),
    };
    const done = await output(loop('flow: double, input: { n: "${ item }" }'), { documents }, { list: [1, 2] });
    expect(done).to.deep.include({ results: [2, 4] });
  });

  it('keeps the trace of a long loop small and its failures visible', async () => {
    const ports = testPorts();
    await run(
      flow(
        `  s: ${loop('on_failure: collect, steps: { x: { kind: shape, with: { value: "${ item == 900 ? 1 / 0 : 1 }" } } }')}`,
        'input: { type: object }',
      ),
      { list: Array.from({ length: 1000 }, (_, index) => index) },
      ports,
    );
    const items = spansOf(ports).filter((span) => span.work === 'item');
    expect(items.filter((span) => span.status === 'ok')).to.have.length(20);
    expect(items.find((span) => span.status === 'error')?.attributes).to.include({ 'pindro.index': 900 });
    expect(journalOf(ports)).to.have.length(3);
  });

  it('lets other work run while it goes on', async () => {
    let beats = 0;
    const beat = setInterval(() => beats++, 5);
    await output(
      loop('steps: { x: { kind: shape, with: { value: "${ item + 1 }" } } }'),
      {},
      { list: Array.from({ length: 5000 }, (_, index) => index) },
    );
    clearInterval(beat);
    expect(beats).to.be.greaterThan(1);
  });
});

describe('the step kind script', () => {
  const scripts = { scripts: { run: (script: Parameters<typeof runScript>[0]) => runScript(script) } };
  const script = (code: string, rest = '') => `{ kind: script, with: { code: ${JSON.stringify(code)}${rest} } }`;

  it('returns what the script returns, and what it logged', async () => {
    expect(
      await output(
        script('console.log("n is", data.n);\nreturn { twice: data.n * 2 };', ', data: { n: "${ input.n }" }'),
        scripts,
        { n: 4 },
      ),
    ).to.deep.equal({ value: { twice: 8 }, log: ['n is 4'] });
    expect(await output(script('return (async () => 5)()'), scripts)).to.deep.include({ value: 5 });
  });

  it('leaves an expression in the code alone', async () => {
    expect(await output(script('const n = 2; return `${ n }`'), scripts)).to.deep.include({ value: '2' });
  });

  for (const [what, code, error] of [
    ['a mistake in the notation', 'let a = ;', /in line 1: SyntaxError/],
    ['a name that is not there', 'const a = 1;\n\nreturn b;', /in line 3: ReferenceError: 'b' is not defined/],
    ['what the script throws', 'throw new Error("no bunks")', /in line 1: no bunks/],
  ] as const)
    it(`tells ${what} with its line`, async () => {
      const failed = await failure(output(script(code), scripts));
      expect(failed).to.include({ code: 'script_failed', at: '/steps/s/with/code' });
      expect(failed.message).to.match(error);
    });

  for (const [what, code] of [
    ['loops', 'for (;;) {}'],
    ['allocates', 'const all = []; for (;;) all.push("x".repeat(1000) + all.length);'],
    ['recurses', 'const f = () => f() + 1; return f();'],
    ['matches slowly', 'return /(a+)+$/.test("a".repeat(60) + "!")'],
  ] as const)
    it(`stops a script that ${what} for ever`, async () => {
      const failed = await failure(output(script(code, ', time: 400ms, memory: 8'), scripts));
      expect(failed).to.include({ code: 'script_limit' });
    }).timeout(8000);

  it('has no way out', async () => {
    const names = ['process', 'require', 'fetch', 'globalThis.Deno', 'setTimeout', 'WebAssembly'];
    expect(await output(script(`return [${names.map((name) => `typeof ${name}`).join()}]`), scripts)).to.deep.include({
      value: names.map(() => 'undefined'),
    });
  });
});

describe('the step kind http', () => {
  const sent = async (config: string) => {
    let request!: FetchRequest;
    const fetch = async (one: FetchRequest) => {
      request = one;
      return answer({ ok: true });
    };
    await output(`{ kind: http, with: { method: POST, url: "http://web.test/x", ${config} } }`, { fetch });
    return request;
  };

  it('sends forms, files, text and bytes', async () => {
    expect(await sent('form: { a: 1, b: "x y" }')).to.deep.include({ body: 'a=1&b=x+y' });
    expect((await sent('text: "hällo"')).headers['content-type']).to.contain('text/plain');
    expect(await sent('binary: { base64: "AAEC", type: image/png }')).to.deep.include({ body: 'AAEC', binary: 'body' });
    const form = await sent('multipart: { hut: larch, plan: { file: "plan.txt", text: "ä", type: text/plain } }');
    const text = Buffer.from(form.body!, 'base64').toString();
    const boundary = /boundary=(.*)/.exec(form.headers['content-type']!)![1]!;
    expect(text.split(`--${boundary}`)).to.have.length(4);
    expect(text).to.contain('name="plan"; filename="plan.txt"\r\nContent-Type: text/plain\r\n\r\nä\r\n');
  });

  it('refuses two bodies at once', async () => {
    const { mistakes } = checkFlow(flow('  s: { kind: http, with: { url: "http://web.test/", json: {}, text: x } }'));
    expect(mistakes[0])
      .to.deep.include({ at: '/steps/s/with', line: 5 })
      .and.to.have.property('message')
      .that.contains('takes one body');
  });

  it('reads an answer as it is asked, and JSON inside of text', async () => {
    const fetch = async ({ binary }: FetchRequest) =>
      binary ? { status: 200, headers: {}, body: 'AAEC' } : answer({ row: { data: '{"n":1}' } });
    const get = (rest: string) => output(`{ kind: http, with: { url: "http://web.test/", ${rest} } }`, { fetch });
    expect(await get('read: base64')).to.deep.include({ body: 'AAEC' });
    expect(await get('read: text')).to.deep.include({ body: '{"row":{"data":"{\\"n\\":1}"}}' });
    expect(await get('json_inside: [row.data]')).to.deep.include({ body: { row: { data: { n: 1 } } } });
  });

  const pages = [['a', 'b'], ['c'], []];
  for (const [by, config, reply] of [
    [
      'page number',
      'by: page_number, items: items',
      (url: URL) => ({ items: pages[Number(url.searchParams.get('page')) - 1] }),
    ],
    [
      'offset until empty',
      'by: until_empty, items: items',
      (url: URL) => ({ items: { 0: pages[0], 2: pages[1] }[url.searchParams.get('offset') ?? 0] ?? [] }),
    ],
    [
      'cursor',
      'by: cursor, items: items, next: next',
      (url: URL) => (url.searchParams.get('cursor') ? { items: ['c'], next: null } : { items: pages[0], next: 'n1' }),
    ],
    [
      'next link',
      'by: next_link, items: items, next: links.next',
      (url: URL) => (url.pathname === '/2' ? { items: ['c'] } : { items: pages[0], links: { next: '/2' } }),
    ],
  ] as const)
    it(`reads all pages by ${by}`, async () => {
      const done = await output(`{ kind: http, with: { url: "http://web.test/1", pages: { ${config} } } }`, {
        fetch: async ({ url }) => answer(reply(new URL(url))),
      });
      expect(done).to.deep.include({ body: ['a', 'b', 'c'] });
    });

  it('never follows a next link to another place, and reads no more pages than asked', async () => {
    const paged = (up_to: number, next: string) =>
      output(
        `{ kind: http, with: { url: "http://web.test/1", pages: { by: next_link, items: items, next: next, up_to: ${up_to} } } }`,
        {
          fetch: async ({ url }) => answer({ items: [1], next: next || `${url}x` }),
        },
      );
    expect((await failure(paged(5, 'http://evil.test/'))).message).to.contain('next page is at http://evil.test');
    expect(await paged(3, '')).to.deep.include({ pages: 3 });
  });
});

describe('the step kind model', () => {
  const schema = '{ type: object, required: [hut], properties: { hut: { type: string, enum: [larch, kestrel] } } }';
  it('gives data that fits the schema, and tells when the model did not', async () => {
    const model = await scriptedModel([{ text: '{"hut":"larch"}' }, { text: '{"hut":"moon"}' }]);
    const parts = { fetch: web, models: modelAt(model.url) };
    const step = `{ kind: model, with: { model: m, message: "Which?", schema: ${schema} } }`;
    expect(await output(step, parts)).to.deep.include({ data: { hut: 'larch' }, text: '{"hut":"larch"}' });
    expect(model.requests[0]!.body).to.have.nested.property('response_format.json_schema.schema.required[0]', 'hut');
    expect((await failure(output(step, parts))).message).to.contain('larch');
    await model.close();
  });

  it('gives the calls it would make, and makes none', async () => {
    const model = await scriptedModel([{ calls: [{ name: 'list_loads', arguments: { station: 'valley' } }] }]);
    const done = await output('{ kind: model, with: { model: m, message: "List", toolbox: [{ server: lift }] } }', {
      fetch: web,
      models: modelAt(model.url),
      tools: { lift: [{ name: 'list_loads', inputSchema: { type: 'object' } }] },
    });
    expect(done).to.deep.include({ calls: [{ tool: 'list_loads', arguments: { station: 'valley' } }] });
    await model.close();
  });
});

describe('the step kinds mail and tool', () => {
  it('hands a mail over with everybody it goes to', async () => {
    const mails: object[] = [];
    const send = async (one: object) => {
      mails.push(one);
      return { id: 'm1' };
    };
    const mail = { send };
    expect(
      await output('{ kind: mail, with: { to: [a@hut.test, b@hut.test], subject: Hello, text: "Come in" } }', { mail }),
    ).to.deep.equal({ id: 'm1', to: ['a@hut.test', 'b@hut.test'], refused: [] });
    expect(mails).to.deep.equal([
      { from: null, to: ['a@hut.test', 'b@hut.test'], cc: [], subject: 'Hello', text: 'Come in', html: null },
    ]);
  });

  it('lists the tools of a server', async () => {
    const tools = { lift: [{ name: 'list_loads', description: 'Lists', inputSchema: { type: 'object' } }] };
    expect(await output('{ kind: tool, with: { server: lift, do: list } }', { tools })).to.deep.include({ count: 1 });
  });
});

describe('a pattern with the caller in it', () => {
  it('is matched in linear time, in the input as in expressions', async () => {
    const begun = used();
    const document = flow(
      '  s: { kind: shape, with: { value: "${ input.text.matches(\'^(a+)+$\') }" } }',
      'input: { type: object, properties: { text: { type: string, pattern: "^(a|a)*b?.*$" } } }\nresult: "${ steps.s.value }"',
    );
    const outcome = await runFlow(
      {
        document: requireFlow(document),
        revision: null,
        stage: 'draft',
        entry: 'hand',
        caller: { id: 'ines', attributes: {} },
        session: null,
        input: { text: `${'a'.repeat(5000)}!` },
      },
      testPorts(),
      new AbortController().signal,
    );
    expect(outcome).to.include({ state: 'done', result: false });
    expect(used() - begun).to.be.lessThan(2000);
  });
});
