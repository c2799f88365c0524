import { MASK, Masker, sensitiveValues } from '@pindro/core';
import { expect } from 'chai';
import { answer, flow, journalOf, run, spansOf, testPorts } from '../support/ports.js';

const SECRET = 'r0pe"way/key+ü';

describe('masking', () => {
  const masker = new Masker();
  masker.add(SECRET);

  it('finds a secret in every form it may take', () => {
    const base64 = Buffer.from(SECRET).toString('base64');
    for (const form of [
      SECRET,
      base64,
      base64.replace(/=+$/, ''),
      Buffer.from(SECRET).toString('base64url'),
      encodeURIComponent(SECRET),
      JSON.stringify(SECRET).slice(1, -1),
    ]) {
      expect(masker.text(`before ${form} after`), form).to.equal(`before ${MASK} after`);
    }
  });

  it('goes through values and property names', () => {
    expect(masker.json({ [SECRET]: [`Bearer ${SECRET}`, 3, null] })).to.deep.equal({
      [MASK]: [`Bearer ${MASK}`, 3, null],
    });
  });

  it('hides a short secret only where it is the whole text', () => {
    const short = new Masker();
    short.add('abc');
    expect(short.text('abc')).to.equal(MASK);
    expect(short.text('abcdef')).to.equal('abcdef');
  });

  it('finds a secret across the pieces of a stream', () => {
    for (let cut = 1; cut < SECRET.length; cut++) {
      const stream = masker.stream();
      const shown = stream.push(`key ${SECRET.slice(0, cut)}`) + stream.push(`${SECRET.slice(cut)} end`) + stream.end();
      expect(shown).to.equal(`key ${MASK} end`);
    }
  });

  it('knows inputs that a schema marks as sensitive', () => {
    const schema = {
      type: 'object',
      properties: {
        pin: { type: 'string', format: 'password' },
        deep: { type: 'object', properties: { code: { type: 'string', writeOnly: true } } },
        open: { type: 'string' },
        list: { type: 'array', items: { type: 'object', properties: { k: { writeOnly: true } } } },
      },
    };
    expect(
      sensitiveValues(schema, { pin: '1234', deep: { code: 'x' }, open: 'y', list: [{ k: 'z' }] }),
    ).to.have.members(['1234', 'x', 'z']);
  });

  it('lets no secret out of a run: not in spans, journal, result or error', async () => {
    const ports = testPorts({
      secrets: { reveal: async () => ({ headers: { 'x-key': SECRET }, secrets: [SECRET] }) },
      fetch: async (request) =>
        answer({ echoed: request.headers['x-key'], in: 'body' }, request.url.endsWith('/fail') ? 500 : 200),
    });
    const document = flow(
      '  a: { kind: http, with: { url: "${ input.url }", credential: c } }',
      'input: { type: object, properties: { url: { type: string }, pin: { type: string, format: password } } }\nresult: "${ steps.a.body.echoed } ${ input.pin }"',
    );
    const good = await run(document, { url: 'http://web.test/ok', pin: 'super-secret-pin' }, ports);
    const bad = await run(document, { url: 'http://web.test/fail', pin: 'super-secret-pin' }, ports);
    expect(good.state).to.equal('done');
    expect(bad.error?.code).to.equal('http_status');
    const told = JSON.stringify([
      good,
      bad,
      spansOf(ports),
      journalOf(ports).map((entry) => ('sealed' in entry ? { ...entry, sealed: null } : entry)),
    ]);
    expect(told).not.to.contain('way/key').and.not.to.contain('super-secret-pin');
    const started = journalOf(ports).find((entry) => entry.type === 'started');
    expect(started).to.have.nested.property('sealed.pin', 'super-secret-pin');
    expect(started).to.have.nested.property('head.input.pin', MASK);
    const settled = journalOf(ports).find((entry) => entry.type === 'step_settled');
    expect(settled).to.have.nested.property('sealed.value.body.echoed', SECRET);
    expect(settled).to.have.nested.property('output.body.echoed', MASK);
  });
});
