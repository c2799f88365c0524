import type { FlowOutcome } from '@pindro/core';
import { expect } from 'chai';
import { settle } from '../support/patience.js';
import { begin, flow, journalOf, run, spansOf, testPorts } from '../support/ports.js';

const INPUT = 'input: { type: object }';

describe('steps inside of a loop', () => {
  it('follow the same rules as outside: branches, joins, failures that go on', async () => {
    const outcome = await run(
      flow(
        `  e:
    kind: each
    with:
      list: [1, 12]
      steps:
        size: { kind: choose, with: { when: { large: "\${ item > 10 }" } } }
        big: { kind: text, after: [size.large], with: { text: "big \${ item }" } }
        small: { kind: text, after: [size.otherwise], with: { text: "small \${ item }" } }
        odd: { kind: shape, on_error: continue, with: { value: "\${ item / 0 }" } }
        both: { kind: text, after: [big, small, odd], with: { text: "\${ has(steps.big.text) ? steps.big.text : steps.small.text }, \${ steps.odd.error.code }" } }
      result: "\${ steps.both.text }"`,
        'result: "${ steps.e.results }"',
      ),
    );
    expect(outcome.result).to.deep.equal(['small 1, expression_failed', 'big 12, expression_failed']);
  });

  it('see the steps outside, and nothing of the item before', async () => {
    const outcome = await run(
      flow(
        `  base: { kind: shape, with: { value: 100 } }
  e:
    kind: each
    after: [base]
    with:
      list: [1, 2]
      steps:
        first: { kind: choose, with: { when: { one: "\${ item == 1 }" } } }
        only: { kind: text, after: [first.one], with: { text: seen } }
        sum: { kind: shape, after: [first, only], with: { value: "\${ steps.base.value + item }" } }
      result: ["\${ steps.sum.value }", "\${ has(steps.only.text) }"]`,
        'result: "${ steps.e.results }"',
      ),
    );
    expect(outcome.result).to.deep.equal([
      [101, true],
      [102, false],
    ]);
  });

  it('may hold loops of their own', async () => {
    const outcome = await run(
      flow(
        `  outer:
    kind: each
    with:
      list: [[1, 2], [3]]
      steps:
        inner: { kind: each, with: { list: "\${ item }", steps: { twice: { kind: shape, with: { value: "\${ item * 2 }" } } }, result: "\${ steps.twice.value }" } }
      result: "\${ steps.inner.results }"`,
        'result: "${ steps.outer.results }"',
      ),
    );
    expect(outcome.result).to.deep.equal([[2, 4], [6]]);
  });

  it('end when the loop takes too long, or the run is cancelled', async () => {
    const ports = testPorts({
      fetch: (_, { signal }) =>
        new Promise((_, reject) => signal.addEventListener('abort', () => reject(signal.reason))),
    });
    const slow =
      '  e: { kind: each, timeout: 30ms, with: { list: [1, 2, 3], at_once: 2, steps: { get: { kind: http, with: { url: "http://web.test/" } } } } }';
    expect((await run(flow(slow), {}, ports)).error).to.include({ code: 'timed_out' });
    const stop = new AbortController();
    const cancelled = run(flow(slow.replace('timeout: 30ms, ', '')), {}, ports, { signal: stop.signal });
    setTimeout(() => stop.abort(), 10);
    expect((await cancelled).state).to.equal('cancelled');
  });

  it('answer for the whole run, and the loop goes on', async () => {
    let open!: () => void;
    const ports = testPorts({
      fetch: () => new Promise((resolve) => (open = () => resolve({ status: 200, headers: {}, body: '' }))),
    });
    const { answered, ended } = begin(
      flow(
        '  e: { kind: each, with: { list: [1], steps: { a: { kind: answer, with: { result: "got ${ item }" } }, b: { kind: http, after: [a], with: { url: "http://web.test/" } } } } }',
      ),
      ports,
    );
    expect((await answered).result).to.equal('got 1');
    await settle();
    open();
    expect(await ended).to.include({ state: 'done', result: 'got 1' });
  });
});

describe('a loop that is taken up again after a restart', () => {
  const LOOP = flow(
    `  each_guest:
    kind: each
    with:
      list: "\${ input.guests }"
      steps:
        note: { kind: table, with: { table: log, do: add, row: { who: "\${ item }" } } }
        ask: { kind: approve, after: [note], with: { title: "\${ item }?" } }
      result: "\${ steps.ask.by }"`,
    `${INPUT}\nresult: "\${ steps.each_guest.results }"`,
  );

  it('does no item twice, and asks only what is still open', async () => {
    const rows: string[] = [];
    const tables = {
      run: async (operation: { do: string; row?: { who: string } }) => {
        rows.push(operation.row!.who);
        return { rows: [{}] };
      },
    };
    const asked: string[] = [];
    const answers = new Map<string, (by: string) => void>();
    const approvals = {
      ask: ({ path }: { path: string }) => {
        asked.push(path);
        return new Promise<{ decision: 'approved'; by: string; note: string }>((resolve) =>
          answers.set(path, (by) => resolve({ decision: 'approved', by, note: '' })),
        );
      },
    };
    const first = testPorts({ tables, approvals } as never);
    void begin(LOOP, first, { guests: ['a', 'b'] });
    await settle();
    answers.get('each_guest/0/ask')!('ines');
    await settle();
    expect(rows).to.deep.equal(['a', 'b']);
    const second = testPorts({ tables, approvals } as never);
    const { ended } = begin(LOOP, second, { guests: ['a', 'b'] }, journalOf(first));
    await settle();
    answers.get('each_guest/1/ask')!('marit');
    expect((await ended) satisfies FlowOutcome).to.deep.include({ state: 'done', result: ['ines', 'marit'] });
    expect(rows).to.deep.equal(['a', 'b']);
    expect(asked).to.deep.equal(['each_guest/0/ask', 'each_guest/1/ask', 'each_guest/1/ask']);
  });

  it('fails an item of which nobody knows whether it happened', async () => {
    const document = flow(
      `  e: { kind: each, with: { list: [1], on_failure: collect, steps: { send: { kind: mail, with: { to: "ines@huts.example", subject: Load, text: Up it goes } } } } }
  ask: { kind: approve, with: { title: "Go?" } }`,
      'result: "${ steps.e.failed[0].code }"',
    );
    const never = testPorts({
      mail: { send: () => new Promise(() => {}) },
      approvals: { ask: () => new Promise(() => {}) },
    });
    void begin(document, never);
    await settle();
    const yes = { ask: async () => ({ decision: 'approved' as const, by: 'ines', note: '' }) };
    const { ended } = begin(document, testPorts({ approvals: yes }), {}, journalOf(never));
    expect(await ended).to.include({ state: 'done', result: 'interrupted' });
  });

  it('keeps in the journal only what cannot be done again', async () => {
    const ports = testPorts({ tables: { run: async () => ({ rows: [{}] }) } });
    await run(
      flow(
        '  e: { kind: each, with: { list: [1, 2], steps: { a: { kind: table, with: { table: t, do: add, row: {} } } } } }',
      ),
      {},
      ports,
    );
    const paths = journalOf(ports).flatMap((entry) => (entry.type === 'step_settled' ? [entry.path] : []));
    expect(paths).to.deep.equal(['e/0/a', 'e/1/a', 'e']);
    const [item] = spansOf(ports).filter((span) => span.work === 'item');
    expect(spansOf(ports).find((span) => span.attributes['pindro.path'] === 'e/0/a')!.parentId).to.equal(item!.spanId);
  });
});
