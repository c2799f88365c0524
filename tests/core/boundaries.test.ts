import { mergeArguments, PindroError, seenSchema } from '@pindro/core';
import { expect } from 'chai';
import { flow, run, spansOf, testPorts } from '../support/ports.js';

/* Limits and counts at the value where they change: one below, one above. */
describe('limits at their boundary', () => {
  const failing = (error: PindroError) => {
    let calls = 0;
    const ports = testPorts({
      fetch: async () => {
        calls++;
        throw error;
      },
    });
    return { ports, calls: () => calls };
  };
  const post = (retry: string) =>
    flow(`  send: { kind: http, retry: ${retry}, with: { method: POST, url: "http://stock.test/" } }`);

  it('retries as often as "times" says after the first attempt, and no more', async () => {
    for (const times of [1, 2, 3]) {
      const { ports, calls } = failing(new PindroError('address_unreachable', { what: 'it', address: 'x', why: 'y' }));
      await run(post(`{ times: ${times}, pause: 1ms }`), {}, ports);
      expect(calls(), String(times)).to.equal(times + 1);
      const attempts = spansOf(ports).filter(({ work }) => work === 'step');
      expect(attempts.map(({ attributes }) => attributes['pindro.attempt'] ?? 1)).to.deep.equal(
        Array.from({ length: times + 1 }, (_, index) => index + 1),
      );
    }
  });

  it('retries only what certainly did not begin, unless repeating is allowed', async () => {
    const cases = { 503: null, ECONNRESET: 1, UND_ERR_HEADERS_TIMEOUT: 1, ECONNREFUSED: 3, ENOTFOUND: 3 };
    for (const [how, calls] of Object.entries(cases)) {
      const counted = async (retry: string) => {
        let count = 0;
        const fetch = async () => {
          count++;
          if (calls === null) return { status: 503, headers: {}, body: '', cut: false };
          throw Object.assign(new Error('it broke'), { code: how });
        };
        await run(post(retry), {}, testPorts({ fetch: fetch }));
        return count;
      };
      expect(await counted('{ times: 2, pause: 1ms }'), how).to.equal(calls ?? 1);
      expect(await counted('{ times: 2, pause: 1ms, repeat: true }'), how).to.equal(3);
    }
  });

  it('retains twenty successful and a hundred failed items of each loop, and a thousand failed ones of a run', async () => {
    const items = (count: number) => JSON.stringify(Array.from({ length: count }, (_, index) => index));
    const loop = (name: string, count: number, value: string) =>
      `  ${name}: { kind: each, on_error: continue, with: { list: ${items(count)}, on_failure: collect, steps: { one: { kind: shape, with: { value: "${value}" } } } } }\n`;
    const retained = async (document: string) => {
      const ports = testPorts();
      await run(document, {}, ports);
      return spansOf(ports).filter(({ work }) => work === 'item').length;
    };
    expect(await retained(flow(loop('good', 21, '${ item }')))).to.equal(20);
    expect(await retained(flow(loop('bad', 101, '${ item / 0 }')))).to.equal(100);
    // Another loop has a count of its own.
    expect(await retained(flow(loop('bad', 101, '${ item / 0 }') + loop('more', 5, '${ item / 0 }')))).to.equal(105);
    const many = Array.from({ length: 11 }, (_, index) => loop(`bad_${index}`, 100, '${ item / 0 }')).join('');
    expect(await retained(flow(many))).to.equal(1000);
  });

  it('does not require an argument that has a default, and sends the default', () => {
    const tool = {
      name: 'book',
      inputSchema: {
        type: 'object',
        required: ['hut', 'party'],
        properties: { hut: { type: 'string' }, party: { type: 'integer', default: 2 } },
      },
    };
    expect(seenSchema(tool.inputSchema, {}).required).to.deep.equal(['hut']);
    expect(mergeArguments(tool, {}, { hut: 'larch' })).to.deep.equal({ hut: 'larch', party: 2 });
    expect(mergeArguments(tool, {}, { hut: 'larch', party: 3 })).to.deep.equal({ hut: 'larch', party: 3 });
  });

  it('masks secrets in an answer that a flow gives before its end', async () => {
    const ports = testPorts();
    const outcome = await run(
      flow(
        '  early: { kind: answer, with: { result: { pin: "${ input.pin }" } } }\n  after: { kind: text, after: [early], with: { text: later } }',
        'input: { type: object, properties: { pin: { type: string, writeOnly: true } } }',
      ),
      { pin: 'secret-pin-of-the-hut' },
      ports,
    );
    expect(JSON.stringify(outcome)).to.not.contain('secret-pin-of-the-hut');
    expect(JSON.stringify(outcome.result)).to.contain('pin');
  });
});
