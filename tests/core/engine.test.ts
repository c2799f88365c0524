import type { Json } from '@pindro/core';
import { expect } from 'chai';
import { answer, flow, journalOf, memoryTable, run, spansOf, stepStates, testPorts } from '../support/ports.js';

const STEP = (name: string, more = '') => `  ${name}: { kind: text, ${more} with: { text: ${name} } }`;
const choose = (condition: string) => `  a: { kind: choose, with: { when: { yes: "\${ ${condition} }" } } }`;

describe('the engine', () => {
  it('runs steps in order and gives the result', async () => {
    const outcome = await run(
      flow(
        `${STEP('a')}\n  b: { kind: text, after: [a], with: { text: "\${ steps.a.text }b" } }`,
        'result: { text: "${ steps.b.text }", who: "${ caller.id } of ${ caller.hut }", day: "${ clock.today }" }',
      ),
    );
    expect(outcome).to.deep.include({
      state: 'done',
      result: { text: 'ab', who: 'ines of kestrel', day: '2027-02-14' },
    });
  });

  it('runs side by side what can run side by side', async () => {
    let open = 0;
    let all = () => {};
    // None is answered before all of them have asked.
    const together = new Promise<void>((resolve) => {
      all = resolve;
    });
    const ports = testPorts({
      fetch: async () => {
        if (++open === 3) all();
        await together;
        return answer({});
      },
    });
    const steps = ['a', 'b', 'c']
      .map((name) => `  ${name}: { kind: http, with: { url: "http://web.test/${name}" } }`)
      .join('\n');
    expect((await run(flow(steps), {}, ports)).state).to.equal('done');
  });

  it('bears many steps side by side that each have their time, and says nothing of its listeners', async () => {
    const warned: string[] = [];
    const note = ({ message }: Error) => void warned.push(message);
    process.on('warning', note);
    const ports = testPorts({
      fetch: async () => {
        await new Promise((resolve) => setTimeout(resolve, 20));
        return answer({});
      },
    });
    const steps = Array.from(
      { length: 40 },
      (_, index) => `  s${index}: { kind: http, timeout: 30s, with: { url: "http://web.test/${index}" } }`,
    ).join('\n');
    expect((await run(flow(steps), {}, ports)).state).to.equal('done');
    await new Promise((resolve) => setImmediate(resolve));
    process.off('warning', note);
    expect(warned).to.deep.equal([]);
  });

  it('follows one branch and skips what is on the others', async () => {
    const document = flow(
      `${choose('input.go')}\n${STEP('b', 'after: [a.yes],')}\n${STEP('c', 'after: [a.otherwise],')}\n${STEP('d', 'after: [b, c],')}\n${STEP('e', 'after: [c],')}`,
      'input: { type: object, properties: { go: { type: boolean } } }',
    );
    const ports = testPorts();
    await run(document, { go: true }, ports);
    // d: the skipped c is neutral, b speaks for it; e: all it comes after is skipped
    expect(stepStates(ports)).to.deep.equal({ a: 'done', b: 'done', c: 'skipped', d: 'done', e: 'skipped' });
    const other = testPorts();
    await run(document, { go: false }, other);
    expect(stepStates(other)).to.deep.equal({ a: 'done', b: 'skipped', c: 'done', d: 'done', e: 'done' });
  });

  it('takes branches of one step as alternatives, and wants different steps all', async () => {
    const ports = testPorts();
    await run(
      flow(
        `${choose('true')}\n${STEP('b', 'after: [a.yes, a.otherwise],')}\n${STEP('c')}\n${STEP('d', 'after: [a.otherwise, c],')}\n${STEP('e', 'after: [a.otherwise, c], join: any,')}`,
      ),
      {},
      ports,
    );
    expect(stepStates(ports)).to.deep.equal({ a: 'done', b: 'done', c: 'done', d: 'skipped', e: 'done' });
  });

  it('fails a condition that is neither true nor false', async () => {
    const outcome = await run(flow(choose('input.n'), 'input: { type: object, properties: { n: {} } }'), { n: 3 });
    expect(outcome.error).to.include({ code: 'condition_not_boolean', at: '/steps/a/with/when/yes' });
  });

  it('stops at a failure and aborts what runs beside', async () => {
    let aborted = false;
    let slow = () => {};
    const begun = new Promise<void>((resolve) => {
      slow = resolve;
    });
    const ports = testPorts({
      fetch: (request, { signal }) =>
        request.url.endsWith('/fail')
          ? begun.then(() => Promise.reject(new Error('connection refused')))
          : new Promise((_, reject) => {
              slow();
              signal.addEventListener('abort', () => {
                aborted = true;
                reject(signal.reason);
              });
            }),
    });
    const outcome = await run(
      flow(
        '  a: { kind: http, with: { url: "http://web.test/fail" } }\n  b: { kind: http, with: { url: "http://web.test/slow" } }',
      ),
      {},
      ports,
    );
    expect(outcome).to.include({ state: 'failed' });
    expect(outcome.error).to.include({ code: 'address_unreachable' });
    expect(aborted).to.equal(true);
  });

  it('goes on after a failure where that is wanted, or follows the branch error', async () => {
    const fails = (how: string) => `  a: { kind: http, on_error: ${how}, with: { url: "http://web.test/" } }`;
    const ports = () => testPorts({ fetch: async () => answer('no', 503) });
    const goesOn = await run(
      flow(
        `${fails('continue')}\n  b: { kind: text, after: [a], with: { text: "\${ steps.a.error.code }" } }`,
        'result: "${ steps.b.text }"',
      ),
      {},
      ports(),
    );
    expect(goesOn.result).to.equal('http_status');
    const branched = ports();
    await run(flow(`${fails('branch')}\n${STEP('b', 'after: [a],')}\n${STEP('c', 'after: [a.error],')}`), {}, branched);
    expect(stepStates(branched)).to.deep.equal({ a: 'failed', b: 'skipped', c: 'done' });
  });

  it('gives up a step after its time, even one that does not listen', async () => {
    const ports = testPorts({ fetch: () => new Promise(() => {}) });
    const outcome = await run(flow('  a: { kind: http, timeout: 20ms, with: { url: "http://web.test/" } }'), {}, ports);
    expect(outcome.error).to.include({ code: 'timed_out', at: '/steps/a/timeout' });
  });

  it('tries again as often as was asked, and not what may have happened', async () => {
    const count = async (step: string) => {
      let calls = 0;
      const ports = testPorts({ fetch: async () => answer('', ++calls < 3 ? 500 : 200) });
      const outcome = await run(flow(step), {}, ports);
      return {
        calls,
        state: outcome.state,
        attempts: journalOf(ports).flatMap((entry) => (entry.type === 'step_settled' ? [entry.attempt] : [])),
      };
    };
    const step = (method: string, more: string) =>
      `  a: { kind: http, retry: { times: 3, pause: 1ms${more} }, with: { method: ${method}, url: "http://web.test/" } }`;
    expect(await count(step('GET', ''))).to.deep.equal({ calls: 3, state: 'done', attempts: [3] });
    expect(await count(step('POST', ''))).to.deep.include({ calls: 1, state: 'failed' });
    expect(await count(step('POST', ', repeat: true'))).to.deep.include({ calls: 3, state: 'done' });
  });

  it('can be cancelled', async () => {
    const stop = new AbortController();
    const ports = testPorts({ fetch: () => new Promise(() => {}) });
    const outcome = run(flow('  a: { kind: http, with: { url: "http://web.test/" } }'), {}, ports, {
      signal: stop.signal,
    });
    setTimeout(() => stop.abort(), 10);
    expect(await outcome).to.deep.include({ state: 'cancelled', result: null });
    expect(journalOf(ports).at(-1)).to.include({ type: 'ended', state: 'cancelled' });
  });

  it('refuses input that does not fit, before any step', async () => {
    const document = flow(STEP('a'), 'input: { type: object, required: [n], properties: { n: { type: integer } } }');
    expect((await run(document, {})).error).to.include({ code: 'input_refused', at: '/n' });
    expect((await run(document, { n: 2 ** 53 })).error?.code).to.equal('value_unsafe');
    expect(
      (await run(document, { n: 1, extra: JSON.parse('['.repeat(70) + ']'.repeat(70)) as Json })).error?.code,
    ).to.equal('value_unsafe');
  });

  it('points at the field whose expression has no value', async () => {
    const outcome = await run(flow('  a: { kind: text, with: { text: "${ caller.nothing }" } }'));
    expect(outcome.error).to.include({ code: 'no_value', at: '/steps/a/with/text' });
  });

  it('ends at stop, as done or as failed', async () => {
    expect(await run(flow('  a: { kind: stop, with: { as: done, result: { n: 1 } } }'))).to.deep.include({
      state: 'done',
      result: { n: 1 },
    });
    expect((await run(flow('  a: { kind: stop, with: { as: failed, message: "no room" } }'))).error).to.include({
      code: 'stopped_as_failed',
      message: 'no room',
    });
  });

  it('runs a called flow as a child with the same trace, caller and stage', async () => {
    const ports = testPorts({
      documents: {
        inner: flow(
          '  x: { kind: text, with: { text: "${ input.n } ${ caller.id } ${ run.stage }" } }',
          'input: { type: object, properties: { n: { type: integer } } }\nresult: "${ steps.x.text }"',
          'inner',
        ),
      },
    });
    const outcome = await run(
      flow('  a: { kind: flow, with: { flow: inner, input: { n: 4 } } }', 'result: "${ steps.a.result }"'),
      {},
      ports,
    );
    expect(outcome.result).to.equal('4 ines draft');
    const spans = spansOf(ports);
    expect(new Set(spans.map((span) => span.traceId)).size).to.equal(1);
    const child = spans.find((span) => span.work === 'run' && span.name === 'inner')!;
    expect(spans.find((span) => span.spanId === child.parentId)).to.include({ work: 'step', name: 'a' });
  });

  it('does not let flows call one another without end', async () => {
    const ports = testPorts({ documents: { loop: flow('  a: { kind: flow, with: { flow: loop } }', '', 'loop') } });
    const outcome = await run(flow('  a: { kind: flow, with: { flow: loop } }'), {}, ports);
    expect(outcome.error?.code).to.equal('flow_too_deep');
  });

  it('adds a row on a condition, and says so when it was refused and nobody follows', async () => {
    const add = (more: string) =>
      flow(
        `  a: { kind: table, with: { table: t, do: add, row: { party: "\${ input.n }" }, unless: { sum: party, over: "\${ 10 - input.n }" } } }${more}`,
        'input: { type: object, properties: { n: { type: integer } } }',
      );
    const tables = memoryTable();
    expect((await run(add(''), { n: 7 }, testPorts({ tables }))).state).to.equal('done');
    expect((await run(add(''), { n: 4 }, testPorts({ tables }))).error).to.include({ code: 'table_refused' });
    const followed = testPorts({ tables });
    await run(add(`\n${STEP('b', 'after: [a],')}\n${STEP('c', 'after: [a.refused],')}`), { n: 4 }, followed);
    expect(stepStates(followed)).to.deep.equal({ a: 'done', b: 'skipped', c: 'done' });
    expect(tables.rows).to.deep.equal([{ party: 7 }]);
  });

  it('writes the journal before work that cannot be repeated, and before it answers', async () => {
    const ports = testPorts({ tables: { run: async () => ({ rows: [{}] }) } });
    let atWork = -1;
    ports.tables.run = async () => {
      atWork = ports.commits;
      return { rows: [{}] };
    };
    await run(flow('  a: { kind: table, with: { table: t, do: add, row: {} } }'), {}, ports);
    expect(atWork).to.equal(1);
    expect(ports.commits).to.equal(2);
    expect(journalOf(ports).map((entry) => `${entry.sequence} ${entry.type}`)).to.deep.equal([
      '0 started',
      '1 step_begun',
      '2 step_settled',
      '3 ended',
    ]);
  });

  it('lets no step begin what cannot be repeated before the journal is on disk, also not beside another', async () => {
    const ports = testPorts();
    let onDisk = false;
    const seen: boolean[] = [];
    ports.record.commit = async () => {
      await new Promise((resolve) => setTimeout(resolve, 20));
      onDisk = true;
    };
    ports.tables.run = async () => {
      seen.push(onDisk);
      return { rows: [{}] };
    };
    const add = (name: string) => `  ${name}: { kind: table, with: { table: t, do: add, row: {} } }`;
    await run(flow(`${add('a')}\n${add('b')}`), {}, ports);
    expect(seen).to.deep.equal([true, true]);
  });

  it('cuts a large payload in a span and keeps it whole in the journal', async () => {
    const ports = testPorts({ fetch: async () => answer(JSON.stringify('x'.repeat(100_000))) });
    await run(flow('  a: { kind: http, with: { url: "http://web.test/" } }'), {}, ports);
    const span = spansOf(ports).find((one) => one.work === 'step')!;
    expect(span.output).to.include({ cut: true });
    expect(JSON.stringify(journalOf(ports)).length).to.be.above(100_000);
  });

  it('sends web requests as they were filled in', async () => {
    const seen: unknown[] = [];
    const ports = testPorts({
      fetch: async (request) => {
        seen.push({
          method: request.method,
          url: request.url,
          body: request.body,
          type: request.headers['content-type'],
          trace: /^00-[0-9a-f]{32}-[0-9a-f]{16}-01$/.test(request.headers.traceparent ?? ''),
        });
        return answer({ ok: true });
      },
    });
    const outcome = await run(
      flow(
        '  a: { kind: http, with: { method: POST, url: "http://web.test/x", query: { q: "a b", n: 3 }, json: { hut: "${ caller.hut }" } } }',
        'result: "${ steps.a.body.ok }"',
      ),
      {},
      ports,
    );
    expect(outcome.result).to.equal(true);
    expect(seen).to.deep.equal([
      {
        method: 'POST',
        url: 'http://web.test/x?q=a+b&n=3',
        body: '{"hut":"kestrel"}',
        type: 'application/json',
        trace: true,
      },
    ]);
  });
});

describe('the step kind text', () => {
  it('writes out values of every type', async () => {
    const document = flow(
      '  a: { kind: text, with: { text: "${ input.v }" } }',
      'input: { type: object, properties: { v: {} } }\nresult: "${ steps.a.text }"',
    );
    for (const [value, written] of [
      ['x', 'x'],
      [5, '5'],
      [true, 'true'],
      [[1, 'a'], '[1,"a"]'],
      [{ a: null }, '{"a":null}'],
    ] as [Json, string][]) {
      expect((await run(document, { v: value })).result).to.equal(written);
    }
    expect((await run(document, {})).error?.code).to.equal('no_value');
  });
});
