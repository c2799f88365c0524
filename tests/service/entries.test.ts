import { createHmac, randomUUID } from 'node:crypto';
import { nextDue } from '@pindro/service/parts';
import { expect } from 'chai';
import { Webhook } from 'standardwebhooks';
import { furnish, until, type Workspace, workspace } from '../support/workspace.js';

const refusal = (work: Promise<unknown>) =>
  work.then(
    () => expect.fail('it worked'),
    (error) => error.problem,
  );
const GREET = `format: pindro/flow@1
name: greet
title: Greet a hut
description: Says hello.
input:
  type: object
  required: [hut, party]
  additionalProperties: false
  properties:
    hut: { type: string, enum: [larch, kestrel], description: Which hut }
    party: { type: integer, minimum: 1 }
    loud: { type: boolean }
    pin: { type: string, format: password }
steps:
  say: { kind: text, with: { text: "\${ input.party } in \${ input.hut } by \${ caller.id }" } }
result: { said: "\${ steps.say.text }" }
`;
const ECHO =
  'format: pindro/flow@1\nname: echo\ninput: { type: object, required: [message], properties: { message: { type: string } } }\nsteps: { say: { kind: text, with: { text: "You said ${ input.message } in ${ session.id }" } } }\nresult: "${ steps.say.text }"';

describe('ways into a flow', () => {
  let house: Workspace;
  let keys: { ines: string };
  before(async () => {
    house = await workspace({ bodyLimit: 64 * 1024 });
    keys = furnish(house.service);
    for (const document of [GREET, ECHO]) {
      const { name } = await house.api.importFlow({ body: { document } });
      await house.api.publishFlow({ name, body: {} });
    }
  });
  after(() => house.close());
  const at = (path: string) => `${house.service.url}${path}`;
  const hook = async (settings: object, path: string) =>
    house.api.createEntry({ body: { flow: 'greet', path, settings: { kind: 'hook', ...settings } } });
  const body = (value: unknown) => ({
    method: 'POST',
    body: JSON.stringify(value),
    headers: { 'content-type': 'application/json' },
  });
  const json = async (response: Response): Promise<Record<string, unknown>> => ({
    status: response.status,
    // Who calls an open hook is another stranger each time.
    ...(JSON.parse((await response.text()).replaceAll(/ #[\w-]{10}/g, '')) as Record<string, unknown>),
  });

  describe('a hook', () => {
    it('counts no calls of those who may not make them against those who may', async () => {
      await hook({ guard: 'key', perMinute: 3 }, 'limited');
      const { key } = house.service.keys.issue({
        ...{ name: 'ines', caller: 'ines', attributes: {}, stage: 'live', endpoints: ['hook/limited'], manage: false },
      });
      const call = (headers: Record<string, string>) =>
        fetch(at('/hooks/limited'), {
          ...body({ hut: 'larch', party: 1 }),
          headers: { 'content-type': 'application/json', ...headers },
        });
      for (let n = 0; n < 10; n++) expect((await call({})).status).to.equal(401);
      for (let n = 0; n < 3; n++) expect((await call({ authorization: `Bearer ${key}` })).status).to.equal(200);
      expect((await call({ authorization: `Bearer ${key}` })).status).to.equal(429);
      await hook({ guard: 'signature', perMinute: 3 }, 'signed-limited');
      for (let n = 0; n < 10; n++)
        expect((await fetch(at('/hooks/signed-limited'), body({ hut: 'larch', party: 1 }))).status).to.equal(401);
    });

    it('takes inputs from the address, a form or JSON, by their types', async () => {
      await hook({ guard: 'open', methods: ['GET', 'POST'] }, 'open');
      expect(await json(await fetch(at('/hooks/open?hut=larch&party=3')))).to.deep.equal({
        status: 200,
        said: '3 in larch by hook open',
      });
      expect(await json(await fetch(at('/hooks/open?hut=larch'), body({ party: 4 })))).to.deep.include({
        said: '4 in larch by hook open',
      });
      const form = { method: 'POST', body: new URLSearchParams({ hut: 'kestrel', party: '5', loud: 'true' }) };
      expect(await json(await fetch(at('/hooks/open'), form))).to.deep.include({ said: '5 in kestrel by hook open' });
    });

    it('refuses in words what does not fit: method, type, size, notation', async () => {
      const wrong = await fetch(at('/hooks/open'), { method: 'PUT' });
      expect(wrong.headers.get('allow')).to.equal('GET, POST');
      expect(await json(wrong)).to.include({ status: 405, code: 'method_refused' });
      expect(await json(await fetch(at('/hooks/open?hut=larch&party=many')))).to.include({
        status: 422,
        code: 'input_refused',
      });
      expect(await json(await fetch(at('/hooks/open'), body({ hut: 'x'.repeat(80_000) })))).to.include({
        status: 413,
        code: 'body_too_large',
      });
      expect(await json(await fetch(at('/hooks/open'), { method: 'POST', body: '{' }))).to.include({
        status: 400,
        code: 'body_unreadable',
      });
      expect(await json(await fetch(at('/hooks/open'), body([1])))).to.include({ status: 422 });
      expect(await json(await fetch(at('/hooks/none')))).to.include({ status: 404, code: 'not_found' });
    });

    it('wants a key that opens it, and then knows the caller', async () => {
      await hook({ guard: 'key' }, 'keyed');
      const call = (key?: string) =>
        fetch(at('/hooks/keyed?hut=larch&party=1'), {
          method: 'POST',
          ...(key && { headers: { authorization: `Bearer ${key}` } }),
        });
      expect(await json(await call())).to.include({ status: 401, code: 'not_signed_in' });
      expect(await json(await call(keys.ines))).to.include({ status: 403, code: 'not_allowed' });
      const { key } = await house.api.issueKey({ body: { name: 'tablet', caller: 'ines', endpoints: ['hook/keyed'] } });
      expect(await json(await call(key))).to.deep.include({ said: '1 in larch by ines' });
    });

    it('is signed by the library of the Standard Webhooks specification', async () => {
      const { newSecret, url } = await hook({ guard: 'signature' }, 'by-library');
      const sent = JSON.stringify({ hut: 'larch', party: 2 });
      const send = (secret: string) => {
        const at = new Date();
        const headers = {
          'webhook-id': randomUUID(),
          'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
        };
        const signature = new Webhook(secret).sign(headers['webhook-id'], at, sent);
        return fetch(url!, { method: 'POST', body: sent, headers: { ...headers, 'webhook-signature': signature } });
      };
      expect(newSecret).to.match(/^whsec_/);
      expect(await json(await send(newSecret!))).to.deep.include({ said: '2 in larch by hook by-library' });
      const own = `whsec_${Buffer.alloc(32, 7).toString('base64')}`;
      expect(await json(await send(own))).to.include({ code: 'signature_refused' });
      const { items } = await house.api.listEntries({});
      const { id } = items.find(({ path }) => path === 'by-library')!;
      await house.api.updateEntry({ id, body: { secret: own } });
      expect(await json(await send(own))).to.deep.include({ said: '2 in larch by hook by-library' });
      for (const secret of ['whsec_c2hvcnQ=', 'whsec_not base64 at all, but long enough']) {
        const refused = await refusal(house.api.updateEntry({ id, body: { secret } }));
        expect(refused.detail, secret).to.contain('24 to 64 bytes in Base64');
      }
    });

    it('checks a signature over body, id and time, and lets nothing old in again', async () => {
      const { newSecret, url } = await hook({ guard: 'signature' }, 'signed');
      const sent = JSON.stringify({ hut: 'larch', party: 2 });
      const call = (text: string, timestamp = Math.floor(Date.now() / 1000), secret = newSecret!.slice(6)) => {
        const signature = createHmac('sha256', Buffer.from(secret, 'base64'))
          .update(`m1.${timestamp}.${sent}`)
          .digest('base64');
        return fetch(url!, {
          method: 'POST',
          body: text,
          headers: {
            'webhook-id': 'm1',
            'webhook-timestamp': String(timestamp),
            'webhook-signature': `v1,bm8= v1,${signature}`,
          },
        });
      };
      expect(await json(await call(sent))).to.deep.include({ said: '2 in larch by hook signed' });
      expect(await json(await call(sent.replace('2', '9')))).to.include({ status: 401, code: 'signature_refused' });
      expect(await json(await call(sent, Math.floor(Date.now() / 1000) - 900))).to.include({
        code: 'signature_refused',
      });
      expect(await json(await call(sent, undefined, 'another secret'))).to.include({ code: 'signature_refused' });
      expect(JSON.stringify(await house.api.listEntries())).not.to.contain(newSecret);
    });

    it('lets pages of the allowed origins in, and no others', async () => {
      await hook({ guard: 'open', origins: ['https://huts.example'] }, 'cors');
      const from = (origin: string, method = 'POST') =>
        fetch(at('/hooks/cors?hut=larch&party=1'), { method, headers: { origin } });
      expect((await from('https://huts.example')).headers.get('access-control-allow-origin')).to.equal(
        'https://huts.example',
      );
      const asked = await from('https://huts.example', 'OPTIONS');
      expect([asked.status, asked.headers.get('access-control-allow-methods')]).to.deep.equal([204, 'POST']);
      expect(await json(await from('https://elsewhere.example'))).to.include({ status: 403, code: 'origin_refused' });
    });

    it('answers at once where that is wanted, stops after so many a minute, and can be switched off', async () => {
      const { id } = await hook({ guard: 'open', answer: 'run', perMinute: 2 }, 'quick');
      const call = () => fetch(at('/hooks/quick?hut=larch&party=1'), { method: 'POST' });
      const first = await json(await call());
      expect(first).to.include({ status: 202, state: 'running' });
      await until(async () => (await house.api.getRun({ id: String(first.run) })).state === 'done', 'the run');
      await call();
      expect(await json(await call())).to.include({ status: 429 });
      expect(await house.api.updateEntry({ id, body: { on: false } })).to.include({ on: false });
      expect((await call()).status).to.equal(404);
      await house.api.removeEntry({ id });
      expect((await refusal(house.api.removeEntry({ id }))).code).to.equal('not_found');
    });

    it('says which failed and why when the flow is not there to be called', async () => {
      await house.api.importFlow({ body: { document: GREET.replace('name: greet', 'name: unpublished') } });
      const made = await house.api.createEntry({
        body: { flow: 'unpublished', settings: { kind: 'hook', guard: 'open' } },
      });
      expect(made.trouble).to.contain('not published');
      expect(await json(await fetch(made.url!, { method: 'POST' }))).to.include({
        status: 409,
        code: 'flow_not_published',
      });
      expect((await refusal(hook({}, 'open'))).code).to.equal('already_there');
    });
  });

  describe('a hook whose flow describes the response', () => {
    const publish = async (name: string, result: string) => {
      const document = `format: pindro/flow@1\nname: ${name}\nsteps:\n  a: { kind: text, with: { text: x } }\nresult: ${result}\n`;
      await house.api.importFlow({ body: { document } });
      await house.api.publishFlow({ name, body: {} });
      const settings = { kind: 'hook', guard: 'open', methods: ['GET'], answer: 'response' } as never;
      await house.api.createEntry({ body: { flow: name, settings } });
      return fetch(at(`/hooks/${name}`), { redirect: 'manual' });
    };

    it('answers a GET with a page that cannot act as the console', async () => {
      const page = await publish(
        'page',
        '{ headers: { content-type: text/html, x-hut: larch }, body: "<h1>Larch</h1>" }',
      );
      expect([page.status, page.headers.get('content-type'), page.headers.get('x-hut')]).to.deep.equal([
        ...[200, 'text/html', 'larch'],
      ]);
      expect(page.headers.get('content-security-policy')).to.match(/^sandbox(?!.*allow-same-origin)/);
      expect(await page.text()).to.equal('<h1>Larch</h1>');
    });

    it('answers with any status, JSON, bytes, or nothing', async () => {
      const teapot = await publish('teapot', '{ status: 418, body: { hut: larch } }');
      expect([teapot.status, await teapot.json()]).to.deep.equal([418, { hut: 'larch' }]);
      const moved = await publish('moved', '{ status: 307, headers: { location: "https://huts.example/" } }');
      expect([moved.status, moved.headers.get('location')]).to.deep.equal([307, 'https://huts.example/']);
      const bytes = await publish('bytes', '{ base64: AAEC }');
      expect([...new Uint8Array(await bytes.arrayBuffer())]).to.deep.equal([0, 1, 2]);
      expect((await publish('nothing', '{ status: 204 }')).status).to.equal(204);
    });

    const WRONG: [string, string, RegExp][] = [
      ['a text', '"hello"', /not an object/],
      ['a status that is none', '{ status: 99 }', /from 200 to 599/],
      ['a misspelt part', '{ statsu: 200 }', /"statsu"/],
      ['a cookie', '{ headers: { Set-Cookie: a=1 } }', /reserved for Pindro/],
      ['its own policy', '{ headers: { content-security-policy: none } }', /reserved for Pindro/],
      ['a line break', '{ headers: { x-a: "a\\r\\nb" } }', /without line breaks/],
    ];
    for (const [index, [what, result, words]] of WRONG.entries())
      it(`refuses ${what} and says why`, async () => {
        const response = await publish(`wrong-${index}`, result);
        const problem = (await response.json()) as { code: string; detail: string };
        expect([response.status, problem.code]).to.deep.equal([500, 'response_invalid']);
        expect(problem.detail).to.match(words);
      });
  });

  describe('a form page', () => {
    before(() =>
      house.api.createEntry({
        body: { flow: 'greet', path: 'visit', settings: { kind: 'form', message: 'See you.', perMinute: 100 } },
      }),
    );
    const send = (values: Record<string, string>) =>
      fetch(at('/forms/visit'), { method: 'POST', body: new URLSearchParams(values), redirect: 'manual' });

    it('is made from the inputs, with labels, bounds and words', async () => {
      const response = await fetch(at('/forms/visit'));
      const page = await response.text();
      expect(response.headers.get('content-security-policy')).to.contain("default-src 'none'");
      expect(page)
        .to.contain('<h1>Greet a hut</h1>')
        .and.contain('<label for="f-hut">Hut</label>')
        .and.contain('<option value="larch">');
      expect(page)
        .to.match(/<input type="number"[^>]*required[^>]*min="1"/)
        .and.contain('type="checkbox"')
        .and.contain('type="password"');
    });

    it('runs the flow and thanks; keeps what was written when something is wrong', async () => {
      const good = await send({ hut: 'larch', party: '3' });
      expect([good.status, await good.text()]).to.satisfy(
        ([status, page]: [number, string]) => status === 200 && page.includes('See you.'),
      );
      const bad = await send({ hut: 'larch', party: 'three <b>' });
      const page = await bad.text();
      expect(bad.status).to.equal(422);
      expect(page)
        .to.contain('role="alert"')
        .and.contain('aria-invalid="true"')
        .and.contain('<option value="larch" selected>')
        .and.contain('three &lt;b&gt;');
      expect(page).not.to.contain('<b>');
    });

    it('ends as the builder says, for each outcome', async () => {
      const flow = (name: string, steps: string) =>
        `format: pindro/flow@1\nname: ${name}\ninput: { type: object, properties: { hut: { type: string } } }\nsteps:\n${steps}\nresult: { night: 3 }\n`;
      const flows = {
        done: '  a: { kind: text, with: { text: x } }',
        refused: '  a: { kind: stop, with: { as: failed, message: "No bunk in ${ input.hut }." } }',
        waiting: '  a: { kind: wait, with: { for: 1h } }',
        failed: '  a: { kind: http, with: { url: "http://127.0.0.1:1/" } }',
      };
      const ending = (text: string) => ({ message: `${text} \${ input.hut } <b>\${ error.message }` });
      for (const [name, steps] of Object.entries(flows)) {
        await house.api.importFlow({ body: { document: flow(`ends-${name}`, steps) } });
        await house.api.publishFlow({ name: `ends-${name}`, body: {} });
        const endings = {
          message: 'Booked ${ result.night } nights',
          refused: ending('Sorry'),
          waiting: { message: 'We will write to ${ input.hut }' },
          failed: { address: 'https://huts.example/call' },
        };
        await house.api.createEntry({ body: { flow: `ends-${name}`, settings: { kind: 'form', ...endings } } });
      }
      const send = async (name: string) => {
        const body = new URLSearchParams({ hut: 'larch' });
        const response = await fetch(at(`/forms/ends-${name}`), { method: 'POST', body, redirect: 'manual' });
        return { status: response.status, to: response.headers.get('location'), text: await response.text() };
      };
      expect((await send('done')).text).to.contain('Booked 3 nights');
      const refused = await send('refused');
      expect(refused.text, refused.text).to.contain('Sorry larch &lt;b&gt;').and.contain('No bunk in larch.');
      expect(refused.text).not.to.contain('<form');
      expect((await send('waiting')).text).to.contain('We will write to larch');
      expect(await send('failed')).to.include({ status: 303, to: 'https://huts.example/call' });
      const wrong = { kind: 'form', failed: { address: 'javascript:alert(1)' } } as never;
      expect(
        (await refusal(house.api.createEntry({ body: { flow: 'ends-done', path: 'x', settings: wrong } }))).status,
      ).to.equal(422);
    });

    it('leads on to an address or another form', async () => {
      const { items } = await house.api.listEntries({ query: { flow: 'greet' } });
      const form = items.find((entry) => entry.settings.kind === 'form')!;
      await house.api.updateEntry({
        id: form.id,
        body: { settings: { kind: 'form', after: 'form', address: 'next-one' } },
      });
      const sent = await send({ hut: 'larch', party: '1' });
      expect([sent.status, sent.headers.get('location')]).to.deep.equal([303, '/forms/next-one']);
    });
  });

  describe('a chat page', () => {
    it('talks, remembers who talks, and works without a script', async () => {
      await house.api.createEntry({ body: { flow: 'echo', settings: { kind: 'chat', greeting: 'Grüezi' } } });
      const first = await fetch(at('/chats/echo'));
      const cookie = first.headers.get('set-cookie')!.split(';')[0]!;
      expect(first.headers.get('set-cookie')).to.contain('HttpOnly');
      expect(await first.text()).to.contain('Grüezi');
      const say = (accept: string) =>
        fetch(at('/chats/echo'), {
          method: 'POST',
          redirect: 'manual',
          headers: { cookie, accept },
          body: new URLSearchParams({ message: 'a <i> hut' }),
        });
      const { answer } = (await (await say('application/json')).json()) as { answer: string };
      expect(answer).to.match(/^You said a <i> hut in chat-/);
      expect((await say('text/html')).status).to.equal(303);
      const page = await (await fetch(at('/chats/echo'), { headers: { cookie } })).text();
      expect(page.split('You said a &lt;i&gt; hut')).to.have.length(3);
      expect(await (await fetch(at('/chats/echo'))).text()).not.to.contain('You said');
      expect((await fetch(at('/public/chat.js'))).status).to.equal(200);
    });

    it('needs a flow that takes a message', async () => {
      expect(
        (await refusal(house.api.createEntry({ body: { flow: 'greet', path: 'talk', settings: { kind: 'chat' } } })))
          .detail,
      ).to.contain('has no input "message"');
    });
  });

  describe('a schedule', () => {
    it('knows when it is due next, in its time zone, and refuses times that never come', async () => {
      const add = (cron: string, zone = 'UTC') =>
        house.api.createEntry({
          body: { flow: 'greet', settings: { kind: 'schedule', cron, zone, input: { hut: 'larch', party: 1 } } },
        });
      const { nextAt, id } = await add('30 6 * * *', 'Asia/Tokyo');
      expect(nextAt).to.contain('T21:30:00');
      await house.api.removeEntry({ id });
      expect(await refusal(add('0 0 31 2 *'))).to.include({ code: 'never_comes', at: '/settings/cron' });
      for (const cron of ['every day', '@daily', '0 9 * *', '0 0 9 * * 1', '0 9 * * 1 2027', '0 9 * * L'])
        expect((await refusal(add(cron))).code, cron).to.equal('never_comes');
      const from = new Date('2026-12-01T00:00:00Z');
      const days = { '0 9 * * 5L': 25, '0 9 * * FRIL': 25, ' 0 9  * * 1 ': 7, '0 9 ? * 1': 7, '0 9 * * 5#2': 11 };
      for (const [cron, day] of Object.entries({ ...days, '0 9 L * *': 31 }))
        expect(nextDue({ cron, zone: 'UTC' }, from).getUTCDate(), cron).to.equal(day);
      expect((await refusal(add('* * * * *', 'Moon/Base'))).code).to.equal('never_comes');
    });

    it('makes up once for times missed while nobody was there, where that is wanted', async () => {
      const { data } = house;
      const other = await workspace();
      await other.api.importFlow({ body: { document: GREET } });
      await other.api.publishFlow({ name: 'greet', body: {} });
      const add = (missed: 'once' | 'skip') =>
        other.service.entries.add({
          flow: 'greet',
          on: true,
          settings: {
            kind: 'schedule',
            cron: '0 * * * *',
            zone: 'UTC',
            missed,
            overlap: 'skip',
            input: { hut: 'larch', party: missed === 'once' ? 1 : 2 },
          },
        });
      for (const missed of ['once', 'skip'] as const)
        other.service.entries.used(add(missed).entry.id, Date.now() - 3 * 3_600_000);
      const kept = other.data;
      await other.service.close();
      const again = await workspace({ data: kept });
      const runs = async () => (await again.api.listRuns({ query: { flow: 'greet' } })).items;
      await until(async () => (await runs())[0]?.state === 'done', 'the missed run');
      expect((await runs()).map((run) => [run.entry, run.caller])).to.deep.equal([['schedule', 'schedule']]);
      expect((await again.api.getRun({ id: (await runs())[0]!.id })).input).to.include({ party: 1 });
      await again.close();
      expect(data).not.to.equal(kept);
    });
  });
});
