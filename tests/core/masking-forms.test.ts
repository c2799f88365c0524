import { MASK, Masker } from '@pindro/core';
import { expect } from 'chai';

const SECRET = 'r0pe"way/key+<ü> &ridge';
const masker = new Masker();
masker.add(SECRET);
const hidden = (text: string) => expect(masker.text(text), text).to.equal(`before ${MASK} after`);

describe('the forms of a secret', () => {
  it('are known in hex, HTML, addresses of either case, twice over, and as escapes', () => {
    const address = encodeURIComponent(SECRET);
    for (const form of [
      Buffer.from(SECRET).toString('hex'),
      Buffer.from(SECRET).toString('hex').toUpperCase(),
      address,
      address.replaceAll(/%[0-9A-F]{2}/g, (one) => one.toLowerCase()),
      address.replaceAll(/%[0-9A-F]{2}/g, (one, at: number) => (at % 2 ? one.toLowerCase() : one)),
      encodeURIComponent(address),
      new URLSearchParams({ k: SECRET }).toString().slice(2),
      SECRET.replaceAll('&', '&amp;').replaceAll('"', '&quot;').replaceAll('<', '&lt;').replaceAll('>', '&gt;'),
      JSON.stringify(JSON.stringify(SECRET)).slice(3, -3),
      JSON.stringify(SECRET).slice(1, -1).replaceAll('ü', '\\u00fc').replaceAll('/', '/'),
    ])
      hidden(`before ${form} after`);
  });

  it('are known in base64 at any offset and behind any prefix', () => {
    for (const prefix of ['', 'i', 'in', 'ines:', 'a longer name of somebody:'])
      for (const encoding of ['base64', 'base64url'] as const) {
        const text = Buffer.from(`${prefix}${SECRET} and more`).toString(encoding);
        const masked = masker.text(text);
        expect(masked, prefix).to.contain(MASK);
        const bytes = Buffer.from(masked.replace(MASK, ''), encoding).toString('latin1');
        expect(bytes, prefix).to.not.contain('way');
      }
  });

  it('are masked as one where they overlap, and the longest where one holds another', () => {
    const several = new Masker();
    for (const secret of ['abcdef-ghijkl', 'ghijkl-mnopqr', 'abcdef']) several.add(secret);
    expect(several.text('<abcdef-ghijkl-mnopqr>')).to.equal(`<${MASK}>`);
    expect(several.text('<abcdef> <abcdef-ghijkl>')).to.equal(`<${MASK}> <${MASK}>`);
  });

  it('are found across the pieces of a stream, in every form and at every cut', () => {
    for (const form of [SECRET, encodeURIComponent(SECRET), Buffer.from(SECRET).toString('hex')])
      for (let cut = 1; cut < form.length; cut++) {
        const stream = masker.stream();
        const shown = stream.push(`key ${form.slice(0, cut)}`) + stream.push(`${form.slice(cut)} end`) + stream.end();
        expect(shown).to.equal(`key ${MASK} end`);
      }
  });

  it('stand on what the workspace knows, and are left alone where they only look alike', () => {
    const own = new Masker(masker);
    own.add('another-secret');
    expect(own.text(`${SECRET} another-secret`)).to.equal(`${MASK} ${MASK}`);
    const value = { plain: ['nothing', 1, null, { deep: true }] };
    expect(own.json(value)).to.equal(value);
    expect(own.text('r0pe"way/keyboard')).to.equal('r0pe"way/keyboard');
  });

  it('are masked as numbers too', () => {
    const numbers = new Masker();
    numbers.add('471147');
    expect(numbers.json({ pin: 471147, other: 47 })).to.deep.equal({ pin: MASK, other: 47 });
  });

  it('cost about the same for one secret and for two hundred', () => {
    const many = new Masker();
    for (let n = 0; n < 200; n++) many.add(`secret number ${n} of the ridge ${(n * 7919).toString(36)}`);
    const text = 'The warden of larch writes every evening who came and who went. '.repeat(1600);
    many.text(text);
    const time = (one: Masker) => {
      const { user } = process.cpuUsage();
      for (let turn = 0; turn < 5; turn++) one.text(text);
      return process.cpuUsage({ user, system: 0 }).user;
    };
    expect(time(many)).to.be.below(20 * (time(masker) + 2000));
  });
});
