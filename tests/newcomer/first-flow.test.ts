import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import { pindro } from '../support/process.js';
import { discard, workspace } from '../support/workspace.js';

const PAGE = new URL('../../../docs/first-flow.md', import.meta.url);
/** Each block of the page: its language, what stands behind that, and its lines. */
const blocks = () =>
  [...readFileSync(PAGE, 'utf8').matchAll(/^```(\w+) ?(\S*)\n([\s\S]*?)^```$/gm)].map(([, language, note, text]) => ({
    ...{ language: language!, note: note!, text: text! },
  }));

describe('the page about a first flow', () => {
  it('works as it is written, from an empty workspace', async function () {
    this.timeout(120_000);
    const house = await workspace();
    const folder = mkdtempSync(join(tmpdir(), 'pindro-first-'));
    const env = { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey };
    let failed = '';
    const shown: string[] = [];
    for (const { language, note, text } of blocks()) {
      if (language === 'yaml') writeFileSync(join(folder, note), text);
      if (language === 'text') expect(failed).to.include(text.trim());
      if (language !== 'sh') continue;
      for (const line of text.trim().split('\n')) {
        const [latest] = (await house.api.listRuns({ query: {} })).items;
        const words = line
          .split(' ')
          .slice(2)
          .map((word) => (word === 'ID' ? latest!.id : word));
        const { code, out, err } = await pindro(words, { cwd: folder, env });
        expect(code === 0, `${line}\n${out}${err}`).to.equal(note !== 'fails');
        failed = out + err;
        shown.push(out);
      }
    }
    expect(shown.at(-1)).to.include('has no room for 20');
    await house.close();
    discard(folder);
  });
});
