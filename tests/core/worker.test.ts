import { Worker } from 'node:worker_threads';
import { asPindroError, type FlowOutcome, type Json } from '@pindro/core';
import { expect } from 'chai';
import { answer, flow, memoryTable, spansOf, type TestPorts, testPorts } from '../support/ports.js';

/** Answers from this thread what the engine in the other one asks. */
function serve(worker: Worker, ports: TestPorts): void {
  const stops = new Map<number, AbortController>();
  worker.on('message', async (message) => {
    if (message.type === 'append') ports.record.append(message.event);
    if (message.type === 'show') ports.watch.show(message.event);
    if (message.type === 'abort') stops.get(message.id)?.abort();
    if (message.type !== 'ask') return;
    const stop = new AbortController();
    stops.set(message.id, stop);
    const [part, name] = message.port.split('.') as [keyof TestPorts, string?];
    const options = {
      signal: stop.signal,
      onPiece: (piece: string) => worker.postMessage({ type: 'piece', id: message.id, piece }),
    };
    try {
      const owner = ports[part] as never as Record<string, (...args: unknown[]) => Promise<Json>>;
      const call = name ? owner[name]!.bind(owner) : (owner as never as (...args: unknown[]) => Promise<Json>);
      worker.postMessage({ type: 'answer', id: message.id, value: await call(...message.args, options) });
    } catch (error) {
      worker.postMessage({ type: 'refusal', id: message.id, error: asPindroError(error).toRecord() });
    }
  });
}

describe('the engine in a worker thread', () => {
  let worker: Worker;
  const begin = (document: string, ports: TestPorts, input: Json = {}) => {
    worker = new Worker(new URL('./worker-engine.js', import.meta.url));
    serve(worker, ports);
    const outcome = new Promise<FlowOutcome>((resolve, reject) => {
      worker.on('message', (message) => message.type === 'outcome' && resolve(message.outcome));
      worker.on('message', (message) => message.type === 'crash' && reject(new Error(message.error.message)));
      worker.on('error', reject);
    });
    worker.postMessage({
      type: 'run',
      request: {
        document,
        revision: null,
        stage: 'draft',
        entry: 'hand',
        caller: { id: 'ines', attributes: {} },
        session: null,
        input,
      },
    });
    return outcome;
  };
  afterEach(() => worker.terminate());

  it('runs a flow behind its ports, with nothing but JSON between', async () => {
    const ports = testPorts({
      tables: memoryTable([{ name: 'larch', bunks: 16 }]),
      fetch: async (request) => answer({ seen: request.url }),
      documents: {
        inner: flow(
          '  x: { kind: text, with: { text: "inner ${ input.n }" } }',
          'input: { type: object, properties: { n: { type: integer } } }\nresult: "${ steps.x.text }"',
          'inner',
        ),
      },
    });
    const outcome = await begin(
      flow(
        '  a: { kind: table, with: { table: huts, do: find, where: { name: larch } } }\n  b: { kind: http, with: { url: "http://web.test/x" } }\n  c: { kind: flow, after: [a, b], with: { flow: inner, input: { n: "${ steps.a.rows[0].bunks }" } } }',
        'result: { text: "${ steps.c.result }", web: "${ steps.b.body.seen }" }',
      ),
      ports,
    );
    expect(outcome).to.deep.include({ state: 'done', result: { text: 'inner 16', web: 'http://web.test/x' } });
    expect(spansOf(ports).map((span) => span.work)).to.include.members(['run', 'step']);
  });

  it('carries errors over with their code and hint', async () => {
    const ports = testPorts();
    const outcome = await begin(flow('  a: { kind: http, with: { url: "http://web.test/" } }'), ports);
    expect(outcome.error).to.deep.include({ code: 'address_unreachable', at: '/steps/a/with' });
  });

  it('is cancelled from the other side, and cancels what it asked for', async () => {
    let asked = () => {};
    let aborted = () => {};
    const isAsked = new Promise<void>((resolve) => {
      asked = resolve;
    });
    const isAborted = new Promise<void>((resolve) => {
      aborted = resolve;
    });
    const ports = testPorts({
      fetch: (_request, { signal }) =>
        new Promise((_, reject) => {
          asked();
          signal.addEventListener('abort', () => {
            aborted();
            reject(new Error('aborted'));
          });
        }),
    });
    const outcome = begin(flow('  a: { kind: http, with: { url: "http://web.test/" } }'), ports);
    await isAsked;
    worker.postMessage({ type: 'stop' });
    expect((await outcome).state).to.equal('cancelled');
    await isAborted;
  });
});
