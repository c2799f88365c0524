import { type Decision, type Ports, requireFlow, runFlow, type TableAnswer } from '@pindro/core';
import { expect } from 'chai';
import { settle } from '../support/patience.js';
import { begin, flow, journalOf, memoryTable, run, spansOf, stepStates, testPorts } from '../support/ports.js';

/** People who decide when the test says so, and remember what they were asked. */
function people() {
  const asked: string[] = [];
  const waiting = new Map<string, (decision: Decision) => void>();
  return {
    asked,
    say: (path: string, decision: Decision) => waiting.get(path)!(decision),
    port: {
      ask: ({ path, title }: { path: string; title: string }) => {
        asked.push(`${path}: ${title}`);
        return new Promise<Decision>((resolve) => waiting.set(path, resolve));
      },
    },
  };
}
const yes: Decision = { decision: 'approved', by: 'marit', note: 'fine' };

const ASKS = flow(
  `  note: { kind: table, with: { table: log, do: add, row: { what: before } } }
  ask: { kind: approve, after: [note], with: { title: "Let \${ caller.id } in?", facts: { n: 8 } } }
  done: { kind: text, after: [ask], with: { text: "\${ steps.ask.by } said \${ steps.ask.decision }" } }`,
  'result: "${ steps.done.text }"',
);

describe('waiting for somebody or a time', () => {
  it('tells the caller at once that it waits, and goes on when somebody has decided', async () => {
    const crowd = people();
    const ports = testPorts({ tables: memoryTable(), approvals: crowd.port });
    const { answered, ended } = begin(ASKS, ports);
    const told = await answered;
    expect(told).to.include({ state: 'waiting', result: null });
    expect(told.waitsFor).to.include({ for: 'person', what: 'Approval required: Let ines in?' });
    await settle();
    crowd.say('ask', yes);
    expect(await ended).to.include({ state: 'done', result: 'marit said approved' });
  });

  it('fails when it is refused, unless a branch says what should happen then', async () => {
    const no = { ask: async (): Promise<Decision> => ({ decision: 'refused', by: 'ines', note: 'too many' }) };
    const failed = await run(ASKS, {}, testPorts({ tables: memoryTable(), approvals: no }));
    expect(failed.error).to.include({ code: 'not_approved', message: '“Let ines in?” was refused by ines: too many' });
    const branched = await run(
      flow(
        '  ask: { kind: approve, with: { title: "Go?" } }\n  sad: { kind: text, after: [ask.refused], with: { text: sorry } }\n  glad: { kind: text, after: [ask], with: { text: hurray } }',
        'result: "${ has(steps.sad.text) ? steps.sad.text : steps.glad.text }"',
      ),
      {},
      testPorts({ approvals: no }),
    );
    expect(branched).to.include({ state: 'done', result: 'sorry' });
  });

  it('goes on after a restart from its journal, with nothing done twice', async () => {
    const crowd = people();
    const rows = memoryTable();
    const first = testPorts({ tables: rows, approvals: crowd.port });
    void begin(ASKS, first);
    await settle();
    // The process is gone; only the journal is left.
    const ports = testPorts({ tables: rows, approvals: crowd.port });
    const { ended } = begin(ASKS, ports, {}, journalOf(first));
    await settle();
    crowd.say('ask', yes);
    expect(await ended).to.include({ state: 'done', result: 'marit said approved' });
    expect(rows.rows).to.have.length(1);
    const whole = [...journalOf(first), ...journalOf(ports)];
    expect(whole.map((entry) => entry.sequence)).to.deep.equal(whole.map((_, index) => index));
    const [runSpan] = spansOf(ports).filter((span) => span.work === 'run');
    const parked = journalOf(first).find((entry) => entry.type === 'parked')!;
    expect(spansOf(ports).find((span) => span.name === 'ask')).to.include({
      spanId: parked.type === 'parked' && parked.span,
      parentId: runSpan!.spanId,
      start: parked.at,
    });
  });

  it('takes up a called flow that waits, and does not begin it anew', async () => {
    const crowd = people();
    const rows = memoryTable();
    const outer = flow(
      '  call: { kind: flow, with: { flow: asks } }\n  after: { kind: text, after: [call], with: { text: "got ${ steps.call.result }" } }',
      'result: "${ steps.after.text }"',
    );
    const documents = { asks: ASKS.replace('name: test', 'name: asks') };
    const first = testPorts({ tables: rows, approvals: crowd.port, documents });
    expect(await begin(outer, first).answered).to.include({ state: 'waiting' });
    await settle();
    const root = journalOf(first)[0]!.run;
    const own = journalOf(first).filter(({ run }) => run === root);
    const ports = testPorts({ tables: rows, approvals: crowd.port, documents });
    ports.record.read = async (id) => journalOf(first).filter((entry) => entry.run === id);
    const { ended } = begin(outer, ports, {}, own);
    await settle();
    crowd.say('ask', yes);
    expect(await ended).to.include({ state: 'done', result: 'got marit said approved' });
    expect(rows.rows).to.have.length(1);
    expect(
      new Set(
        journalOf(first)
          .concat(journalOf(ports))
          .map((entry) => entry.run),
      ).size,
    ).to.equal(2);
  });

  it('does not do again what may have happened when the service stopped beside a waiting step', async () => {
    const crowd = people();
    const document = flow(
      '  ask: { kind: approve, with: { title: "Go?" } }\n  send: { kind: mail, on_error: continue, with: { to: "ines@huts.example", subject: Load, text: Up it goes } }',
      'result: "${ steps.send.error.code }"',
    );
    const first = testPorts({ approvals: crowd.port, mail: { send: () => new Promise(() => {}) } });
    void begin(document, first);
    await settle();
    const ports = testPorts({ approvals: crowd.port });
    const { ended } = begin(document, ports, {}, journalOf(first));
    await settle();
    crowd.say('ask', yes);
    expect(await ended).to.include({ state: 'done', result: 'interrupted' });
  });

  it('asks the ledger of a table whether a step that was cut took effect, under the same key', async () => {
    const crowd = people();
    const document = flow(
      '  ask: { kind: approve, with: { title: "Go?" } }\n  book: { kind: table, with: { table: t, do: add, row: { n: 1 } } }',
      'result: "${ steps.book.row }"',
    );
    const keys: string[] = [];
    const answering = (answer: Promise<TableAnswer>): Ports['tables'] => ({
      run: (_operation, { key }) => {
        keys.push(key);
        return answer;
      },
    });
    const cut = answering(new Promise(() => {}));
    const first = testPorts({ approvals: crowd.port, tables: cut });
    void begin(document, first);
    await settle();
    const ledger = answering(Promise.resolve({ rows: [{ id: 7 }] }));
    const { ended } = begin(document, testPorts({ approvals: crowd.port, tables: ledger }), {}, journalOf(first));
    await settle();
    crowd.say('ask', yes);
    expect(await ended).to.deep.include({ state: 'done', result: { id: 7 } });
    expect(keys[0]).to.match(/^r.*\/book\/1$/);
    expect(keys[1]).to.equal(keys[0]);
  });

  it('waits for a time, and for what is left of it after a restart', async () => {
    const document = flow('  nap: { kind: wait, with: { for: 1h } }', 'result: "${ steps.nap.until }"');
    let now = Date.parse('2027-02-14T10:00:00Z');
    const clock = { now: async () => now, zone: async () => 'UTC' };
    const first = testPorts({ clock });
    expect((await begin(document, first).answered).waitsFor).to.deep.equal({
      for: 'time',
      until: Date.parse('2027-02-14T11:00:00Z'),
      what: 'The run continues at 2027-02-14T11:00:00.000Z',
    });
    now = Date.parse('2027-02-14T12:00:00Z');
    const { ended } = begin(document, testPorts({ clock }), {}, journalOf(first));
    expect(await ended).to.include({ state: 'done', result: '2027-02-14T11:00:00.000Z' });
  });

  it('a short wait is simply waited for; a moment that is none is told', async () => {
    const short = flow('  nap: { kind: wait, with: { for: 5ms } }', 'result: "${ steps.nap.until }"');
    const real = { now: async () => Date.now(), zone: async () => 'UTC' };
    expect(await begin(short, testPorts({ clock: real })).answered).to.include({ state: 'done' });
    const odd = await run(flow('  nap: { kind: wait, with: { until: "${ input.x }" } }', 'input: { type: object }'), {
      x: 'soon',
    });
    expect(odd.error).to.include({ code: 'config_refused', at: '/steps/nap/with/until' });
    expect(odd.error?.message).to.contain('"soon" is not a date-time');
  });
});

describe('answering before the end', () => {
  it('gives the first answer at once; a later failure marks only the run', async () => {
    let fail!: () => void;
    const ports = testPorts({ fetch: () => new Promise((_, reject) => (fail = () => reject(new Error('gone')))) });
    const { answered, ended } = begin(
      flow(
        '  now: { kind: answer, with: { result: { ok: true } } }\n  later: { kind: http, after: [now], with: { url: "http://web.test/" } }',
      ),
      ports,
    );
    expect(await answered).to.deep.include({ state: 'done', result: { ok: true } });
    await settle();
    fail();
    expect(await ended).to.include({ state: 'failed' });
    expect(journalOf(ports).map((entry) => entry.type)).to.include('answered');
  });

  it('a flow that is started is not waited for, and its failure stays its own', async () => {
    const ports = testPorts({
      documents: { slow: flow('  x: { kind: stop, with: { as: failed, message: no } }', '', 'slow') },
    });
    const outcome = await run(
      flow('  go: { kind: flow, with: { flow: slow, wait: false } }', 'result: "${ steps.go.run }"'),
      {},
      ports,
    );
    expect(outcome.state).to.equal('done');
    const child = journalOf(ports).filter((entry) => entry.run === outcome.result);
    expect(child.at(-1)).to.include({ type: 'ended', state: 'failed' });
  });
});

describe('trying a flow out', () => {
  const CHAIN = flow(
    '  a: { kind: http, with: { url: "http://web.test/a" } }\n  b: { kind: text, after: [a], with: { text: "b of ${ steps.a.body }" } }\n  c: { kind: text, after: [b], with: { text: "c of ${ steps.b.text }" } }',
    'result: "${ steps.c.text }"',
  );
  const request = (trial: object, stage: 'draft' | 'live' = 'draft') => ({
    document: requireFlow(CHAIN),
    revision: null,
    stage,
    entry: 'hand' as const,
    caller: { id: 'ines', attributes: {} },
    session: null,
    input: {},
    trial,
  });
  const signal = new AbortController().signal;
  const calling = (calls: string[] = []) => ({
    calls,
    fetch: async ({ url }: { url: string }) => {
      calls.push(url);
      return { status: 200, headers: {}, body: 'web' };
    },
  });

  it('uses a held result instead of doing the step, and says so; a live run never does', async () => {
    const held = { a: { output: { body: 'kept' }, branch: null } };
    const web = calling();
    const ports = testPorts(web);
    expect(await runFlow(request({ held }), ports, signal)).to.include({ result: 'c of b of kept' });
    expect(web.calls).to.deep.equal([]);
    expect(spansOf(ports).find((span) => span.name === 'a')!.attributes).to.include({ 'pindro.held': true });
    expect(await runFlow(request({ held }, 'live'), ports, signal)).to.include({ result: 'c of b of web' });
  });

  it('does one step alone on what an earlier run left behind', async () => {
    const web = calling();
    const ports = testPorts(web);
    const only = { step: 'b', outputs: { a: { body: 'earlier' } } };
    const outcome = await runFlow(request({ only }), ports, signal);
    expect(outcome).to.deep.include({ state: 'done', result: { text: 'b of earlier' } });
    expect(stepStates(ports)).to.deep.equal({ b: 'done' });
    expect(web.calls).to.deep.equal([]);
  });

  it('waits before each step, and ends when that is said', async () => {
    const seen: string[] = [];
    const ports = testPorts({
      ...calling(),
      stepping: {
        before: async ({ path }: { path: string }) => {
          seen.push(path);
          return { go: path !== 'c' };
        },
      },
    });
    expect(await runFlow(request({ stepping: true }), ports, signal)).to.include({ state: 'cancelled' });
    expect(seen).to.deep.equal(['a', 'b', 'c']);
    expect(stepStates(ports)).to.include({ a: 'done', b: 'done' });
  });

  it('leaves out a step that is switched off; what comes after goes on', async () => {
    const outcome = await run(
      flow(
        '  a: { kind: text, with: { text: one } }\n  b: { kind: text, off: true, after: [a], with: { text: two } }\n  c: { kind: text, after: [a, b], with: { text: three } }',
        'result: "${ has(steps.b.text) ? \'b\' : steps.c.text }"',
      ),
    );
    expect(outcome).to.include({ state: 'done', result: 'three' });
  });
});
