import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import type { Browser, Page, Route } from 'playwright-core';
import { build } from 'vite';
import { openBrowser } from '../support/browser.js';
import { discard, temporary } from '../support/workspace.js';

const ROOT = new URL('../../../packages/console', import.meta.url).pathname;
const TYPES: Record<string, string> = { html: 'text/html', js: 'text/javascript', css: 'text/css' };

type Json = null | boolean | number | string | Json[] | { [key: string]: Json };

describe('components by themselves, without a service', function () {
  this.timeout(120_000);
  const out = temporary();
  let browser: Browser;
  let page: Page;
  const faults: string[] = [];
  /** Stands for the service where a test has one. */
  let answer: ((route: Route) => Promise<void>) | null = null;
  const show = (name: string, props: object, document?: object) =>
    page.evaluate(
      ([component, given, flow]) =>
        (globalThis as unknown as { show(...all: unknown[]): void }).show(component, given, flow),
      [name, props, document] as const,
    );
  const kept = () => page.evaluate(() => (globalThis as unknown as { kept(): Json }).kept());
  const documentNow = () =>
    page.evaluate(() => (globalThis as unknown as { documentNow(): { steps: Record<string, Json> } }).documentNow());

  before(async () => {
    await build({
      ...{ root: ROOT, configFile: `${ROOT}/vite.config.ts`, logLevel: 'error' },
      build: { outDir: out, emptyOutDir: true, rollupOptions: { input: `${ROOT}/mounted/index.html` } },
    });
    browser = await openBrowser();
    page = await browser.newPage();
    page.setDefaultTimeout(8000);
    page.on('pageerror', (error) => faults.push(error.message));
    // Nothing leaves the page: files come from the folder, and no service answers.
    await page.route('**/*', async (route) => {
      const { pathname } = new URL(route.request().url());
      if (pathname.startsWith('/api/')) return answer ? answer(route) : route.abort();
      const file = join(out, pathname);
      await route.fulfill({
        body: readFileSync(file),
        contentType: TYPES[pathname.split('.').at(-1)!] ?? 'font/woff2',
      });
    });
    await page.goto('http://127.0.0.1:9/mounted/index.html');
    await page.waitForFunction(() => 'show' in globalThis);
  });
  after(async () => {
    await browser.close();
    discard(out);
  });
  afterEach(() => expect(faults.splice(0), 'errors in the browser').to.deep.equal([]));

  it('a list is added to, moved, copied and taken from', async () => {
    await show('FieldHost', { schema: { type: 'array', items: { type: 'string' } }, value: ['a', 'b'] });
    await page.getByRole('button', { name: 'Move Thing 1 down' }).click();
    expect(await kept()).to.deep.equal(['b', 'a']);
    await page.getByRole('button', { name: 'Copy Thing 2' }).click();
    await page.getByLabel('Thing 3', { exact: true }).fill('c');
    expect(await kept()).to.deep.equal(['b', 'a', 'c']);
    await page.getByRole('button', { name: 'Remove Thing 1' }).click();
    expect(await kept()).to.deep.equal(['a', 'c']);
  });

  it('a union changes its fields with its choice', async () => {
    const ways = [
      { title: 'a file', type: 'object', required: ['file'], properties: { file: { type: 'string' } } },
      { title: 'an address', type: 'object', required: ['url'], properties: { url: { type: 'string' } } },
    ];
    await show('FieldHost', { schema: { oneOf: ways }, value: { url: 'x' } });
    expect(await page.getByLabel('Url').inputValue()).to.equal('x');
    await page.getByLabel('Type of Thing').selectOption({ label: 'a file' });
    await page.getByLabel('File').fill('map.png');
    expect(await kept()).to.deep.equal({ file: 'map.png' });
  });

  it('any value becomes fields, a list, yes or no, nothing', async () => {
    await show('FieldHost', { schema: {}, value: 'text' });
    const what = page.getByLabel('Type of Thing', { exact: true });
    await what.selectOption({ label: 'null' });
    expect(await kept()).to.equal(null);
    await what.selectOption({ label: 'object' });
    await page.getByLabel('New name in Thing').fill('a');
    await page.getByLabel('New name in Thing').press('Enter');
    await page.getByLabel('a', { exact: true }).fill('12');
    expect(await kept()).to.deep.equal({ a: 12 });
    await page.getByRole('button', { name: 'Show Thing as YAML' }).click();
    expect(await page.getByLabel('Thing', { exact: true }).inputValue()).to.equal('a: 12');
    await page.getByLabel('Thing', { exact: true }).fill('a: [1, 2');
    await page.locator('p.fault').waitFor();
    expect(await kept()).to.deep.equal({ a: 12 });
  });

  it('an expression takes the place of a choice, and gives it back', async () => {
    const schema = { enum: ['GET', 'POST'], default: 'GET' };
    await show('FieldHost', { schema, expressions: true });
    const supplied = page.getByLabel('Supplied by Thing');
    expect(await supplied.locator('option').allTextContents()).to.deep.equal(['fixed value', 'expression']);
    await supplied.selectOption('expression');
    await page.getByLabel('Thing', { exact: true }).fill('${ input.how }');
    expect(await kept()).to.equal('${ input.how }');
    expect(await supplied.inputValue()).to.equal('caller');
    await supplied.selectOption('value');
    await page.getByLabel('Thing', { exact: true }).selectOption('POST');
    expect(await kept()).to.equal('POST');
  });

  it('a number that is typed is a number, and one that is none stays a text', async () => {
    await show('FieldHost', { schema: { type: 'integer' } });
    await page.getByLabel('Thing', { exact: true }).fill('007');
    expect(await kept()).to.equal('007');
    await page.getByLabel('Thing', { exact: true }).fill('7');
    expect(await kept()).to.equal(7);
  });

  it('values are what they are: tables sort and page, pictures, links and sizes show, deep ones open', async () => {
    const rows = Array.from({ length: 60 }, (_, n) => ({ n, hut: n % 2 ? 'larch' : 'kestrel' }));
    await show('Value', { value: rows });
    await page.getByText('1 to 25 of 60').waitFor();
    await page.getByRole('button', { name: 'n', exact: true }).click();
    await page.getByRole('button', { name: 'n', exact: true }).click();
    await page.getByRole('cell', { name: '59' }).waitFor();
    await show('Value', {
      value: { size: 2_097_152, at: '2027-02-14', to: 'https://huts.example/a', ok: true, none: null },
    });
    await page.getByText('2 MiB').waitFor();
    await page.getByRole('link', { name: 'https://huts.example/a' }).waitFor();
    await page.getByText('Feb 14, 2027').waitFor();
    const dot = 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==';
    await show('Value', { value: { type: 'image', data: dot, mimeType: 'image/png' } });
    await page.getByRole('img').waitFor();
    const deep = { inner: { list: Array.from({ length: 90 }, (_, n) => (n % 2 ? { n } : n)) } };
    await show('Value', { value: deep });
    await page.getByRole('button', { name: /inner/, expanded: false }).click();
    await page.getByRole('button', { name: /list/, expanded: false }).click();
    await page.getByText('Show more of 90').click();
    await show('Value', { value: { cut: true, characters: 20_000_000, beginning: '{"a":1' } });
    await page.getByText('20,000,000 characters of JSON').waitFor();
  });

  it('Markdown of somebody else runs nothing and loads nothing', async () => {
    const text =
      '**bold** <script>window.hurt = 1</script><img src=x onerror="window.hurt=2"> [go](javascript:window.hurt=3) <form action="//x"><input></form> <a href="https://huts.example" onclick="window.hurt=4">ok</a>';
    await show('Markdown', { text });
    await page.getByText('bold').waitFor();
    for (const tag of ['script', 'img', 'form', 'input'])
      expect(await page.locator(`.markdown ${tag}`).count(), tag).to.equal(0);
    const links = await page.locator('.markdown a').evaluateAll((all) => all.map((one) => one.outerHTML).join());
    expect(links).to.not.contain('javascript:').and.not.contain('onclick');
    expect(links).to.contain('rel="noopener noreferrer"');
    expect(await page.evaluate(() => (globalThis as { hurt?: number }).hurt)).to.equal(undefined);
  });

  it('five calls beside one another are one line that opens', async () => {
    const call = (n: number) => ({
      ...{ id: `${n}`, tool: 'list_loads', from: 'lift', arguments: { hut: 'larch' }, result: '{"loads":[]}' },
      ...{ state: n === 3 ? 'failed' : 'done', run: null, begun: 0, took: 10 * n, made: [] },
    });
    await show('Calls', { calls: [1, 2, 3, 4, 5].map(call) });
    await page.getByText('1 failed').waitFor();
    await page.getByText('50 ms').waitFor();
    await page.getByRole('button', { name: /^5 parallel calls/ }).click();
    expect(await page.getByRole('button', { name: /^list loads/ }).count()).to.equal(5);
  });

  describe('of the editor', () => {
    const DOCUMENT = {
      ...{ format: 'pindro/flow@1', name: 'small' },
      steps: {
        a: { kind: 'text', with: { text: 'x' } },
        b: { kind: 'text', after: ['a'], with: { text: '${ steps.a.text }' } },
      },
    };
    const cards = ['a', 'b'].map((name) => ({
      name,
      kind: 'text',
      title: name,
      branches: [],
      sentence: [],
      tools: [],
    }));

    it('a step is renamed with what refers to it, and not to a name that is taken', async () => {
      await show('StepName', { step: 'a', cards }, DOCUMENT);
      const field = page.getByLabel('Name of the step');
      await field.fill('b');
      await page.getByText('A step with this name already exists.').waitFor();
      await field.fill('first');
      await field.press('Enter');
      const { steps } = await documentNow();
      expect(steps).to.have.nested.property('b.with.text', '${ steps.first.text }');
      expect(steps).to.have.deep.nested.property('b.after', ['first']);
    });

    it('a step is tied and untied without a mouse', async () => {
      await show('LinksEditor', { step: 'b', cards }, DOCUMENT);
      await page.getByRole('button', { name: 'No longer after a' }).click();
      await page.getByText('none: it runs first').waitFor();
      expect((await documentNow()).steps.b).to.not.have.property('after');
      await page.getByLabel('Add a predecessor').selectOption('a');
      await page.getByRole('button', { name: 'Add' }).click();
      expect((await documentNow()).steps.b).to.have.deep.property('after', ['a']);
    });

    describe('and its draft', () => {
      /** Keeps a draft as the service does: refuses what was not made from the last version. */
      interface Kept {
        version: number;
        document: Json;
        refused: number;
      }
      let draft: Kept;
      const FLOW = { ...DOCUMENT, name: 'draft' };
      const drawn = { cards: [], links: [], bodies: {}, mistakes: [], warnings: [] };
      const change = (work: string) => page.evaluate(`(async (editor) => { ${work} })(globalThis.editorNow())`);
      const say = (text: string) => `editor.change('a', { with: { text: '${text}' } });`;

      beforeEach(async () => {
        draft = { version: 1, document: FLOW, refused: 0 };
        answer = async (route) => {
          const request = route.request();
          const json = (body: object, status = 200) => route.fulfill({ status, json: body });
          if (request.url().endsWith('/preview')) return json(drawn);
          if (request.url().endsWith('/compare')) {
            const same = JSON.stringify(request.postDataJSON().document) === JSON.stringify(draft.document);
            const changes = same ? [] : [{ at: '/steps/a', what: 'a says something else' }];
            return json({ changes, steps: {}, lines: [], cards: [], links: [] });
          }
          // What an editor of another test still has to save is none of this one's.
          if (!request.url().includes('/flows/draft')) return route.abort();
          if (request.method() === 'GET') return json({ ...drawn, ...draft, text: '' });
          const { version, document } = request.postDataJSON() as Kept;
          await new Promise((resolve) => setTimeout(resolve, 60));
          if (version !== draft.version) {
            draft.refused += 1;
            return json({ code: 'draft_newer', title: 'Somebody else saved', status: 409 }, 409);
          }
          draft = { ...draft, version: draft.version + 1, document };
          return json({ ...drawn, ...draft });
        };
        await show('StepName', { step: 'a', cards: [] }, FLOW);
      });
      afterEach(() => {
        answer = null;
      });

      it('is saved by one after another, however many want it saved at once', async () => {
        await change(`${say('one')} const first = editor.save(); ${say('two')}
          await Promise.all([first, editor.save(), editor.save(), editor.reload(), editor.save()]); ${say('three')}
          await Promise.all([editor.save(), editor.reload(), editor.save()]);`);
        expect(draft).to.deep.include({ refused: 0, version: 3 });
        expect(draft.document).to.have.nested.property('steps.a.with.text', 'three');
        expect(await change('return editor.state')).to.equal('saved');
      });

      it('written as text while a change is on its way waits for its turn', async () => {
        await change(`${say('one')} await Promise.all([editor.save(), editor.writeText('a: b')]);`);
        expect(draft).to.deep.include({ refused: 0, version: 3, document: 'a: b' });
      });

      it('saved by somebody else asks who comes second only where the two differ', async () => {
        draft.version = 7;
        draft.document = JSON.parse(JSON.stringify(FLOW).replace('"x"', '"same"'));
        await change(`${say('same')} await editor.save();`);
        expect(await change('return [editor.state, editor.conflict]')).to.deep.equal(['saved', null]);
        await change(`${say('mine')} await editor.save();`);
        expect(draft).to.deep.include({ refused: 1, version: 8 });
        draft.version = 12;
        await change(`${say('later')} await editor.save();`);
        expect(await change('return editor.conflict.difference.changes.length')).to.equal(1);
        await change(`await editor.settle('mine');`);
        expect(draft.document).to.have.nested.property('steps.a.with.text', 'later');
        await change(`editor.undo(); await editor.save();`);
        expect(draft.document).to.have.nested.property('steps.a.with.text', 'mine');
      });
    });

    it('a failure, a time-out and further attempts are set without YAML', async () => {
      await show('StepExtras', { step: 'a', cards }, DOCUMENT);
      await page.getByText('On failure, note').click();
      await page.getByLabel('On failure', { exact: true }).selectOption('branch');
      await page.getByLabel('Timeout (optional)').fill('2');
      await page.getByLabel('Unit of Timeout').selectOption('minutes');
      await page.getByLabel('Retries', { exact: true }).fill('3');
      await page.getByLabel('Note', { exact: true }).fill('Slow on Sundays');
      expect((await documentNow()).steps.a).to.deep.include({
        on_error: 'branch',
        timeout: '2m',
        retry: { times: 3 },
        note: 'Slow on Sundays',
      });
    });

    it('mistakes stand in a list that tells them from warnings', async () => {
      const mistakes = [{ at: '/steps/b/with/text', message: '"text" is missing', missing: true }];
      const warnings = [{ at: '/steps/a/with/text', message: 'It fits nothing' }];
      await show('MistakesMenu', { mistakes, warnings }, DOCUMENT);
      await page.getByRole('button', { name: '1 mistake' }).click();
      await page.getByRole('button', { name: /b › text/ }).waitFor();
      await page.getByText('warning', { exact: true }).waitFor();
    });
  });
});
