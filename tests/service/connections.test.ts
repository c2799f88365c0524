import { createServer } from 'node:net';
import { PindroError } from '@pindro/core';
import {
  type EntryRecord,
  type EntryStore,
  FlowChecker,
  MailSender,
  nextDue,
  Scheduler,
  ScriptPool,
  WorkThread,
} from '@pindro/service/parts';
import { type Mailbox, startMailbox, startModel } from '@pindro/standins';
import { expect } from 'chai';
import { patience } from '../support/patience.js';
import { deadPort } from '../support/scripted-model.js';
import { until, workspace } from '../support/workspace.js';

const signal = new AbortController().signal;
const fault = (work: Promise<unknown>) =>
  work.then(
    () => expect.fail('it worked'),
    (error) => error,
  );

describe('sending mails', () => {
  let mailbox: Mailbox;
  before(async () => {
    mailbox = await startMailbox({ smtpPort: 0, httpPort: 0, messages: [], onMessage: () => {} });
  });
  after(() => mailbox.close());
  const mail = {
    from: null,
    to: ['larch@alder-ridge.example', 'desk@alder-ridge.example'],
    cc: ['ines@alder-ridge.example'],
    subject: 'Grüße',
    text: 'Hällo',
    html: '<b>Hällo</b>',
  };

  it('hands text and HTML over SMTP, to everybody it goes to', async () => {
    const sender = new MailSender(`smtp://127.0.0.1:${mailbox.smtpPort}`, 'desk@alder-ridge.example');
    const { id } = await sender.send(mail, { signal });
    expect(id).to.match(/^<.*>$/);
    await until(() => mailbox.messages.length > 0, 'the mail');
    expect(mailbox.messages[0]).to.deep.include({ from: 'desk@alder-ridge.example', subject: 'Grüße' });
    expect(mailbox.messages[0]!.text).to.contain('Hällo');
  });

  it('says when there is no mail server, when none answers, and when it refuses', async () => {
    expect(await fault(new MailSender(undefined, 'x').send(mail, { signal }))).to.include({ code: 'mail_nowhere' });
    const dead = new MailSender(`smtp://127.0.0.1:${await deadPort()}`, 'x@y.example');
    expect(await fault(dead.send(mail, { signal }))).to.include({ code: 'address_unreachable' });
    const rude = createServer((socket) => {
      socket.write('220 hut\r\n');
      socket.on(
        'data',
        (data) => void socket.write(/^(EHLO|HELO)/.test(String(data)) ? '250 hut\r\n' : '550 not you\r\n'),
      );
      socket.on('error', () => {});
    });
    await new Promise<void>((resolve) => rude.listen(0, '127.0.0.1', resolve));
    const refused = await fault(
      new MailSender(`smtp://127.0.0.1:${(rude.address() as { port: number }).port}`, 'x@y.example').send(mail, {
        signal,
      }),
    );
    expect(refused).to.include({ code: 'mail_refused' });
    expect(refused.message).to.contain('550 not you');
    rude.close();
  });
});

describe('scripts in threads of their own', () => {
  const pool = new ScriptPool();
  after(() => pool.close());
  const run = (code: string, time = 300) =>
    pool.run({ code, data: { n: 2 }, time, memory: 16 * 1024 * 1024 }, { caller: 'ines', signal });

  it('hold up nothing else while they loop', async () => {
    let beats = 0;
    const beat = setInterval(() => beats++, 10);
    const failed = await fault(run('for (;;) {}'));
    clearInterval(beat);
    expect(failed).to.include({ code: 'script_limit' });
    expect(beats).to.be.greaterThan(10);
  });

  it('work side by side, and the threads go on after one of them failed', async () => {
    const all = await Promise.all(Array.from({ length: 12 }, (_, index) => run(`return data.n * ${index}`)));
    expect(all.map(({ value }) => value)).to.deep.equal(Array.from({ length: 12 }, (_, index) => index * 2));
    expect(await fault(run('throw new Error("no")'))).to.include({ code: 'script_failed' });
    expect(await run('return 1')).to.deep.equal({ value: 1, log: [] });
  });

  it('end when nobody waits for them any more', async () => {
    const stop = new AbortController();
    const work = pool.run(
      { code: 'for (;;) {}', data: null, time: 5000, memory: 1e7 },
      { caller: 'ines', signal: stop.signal },
    );
    setTimeout(() => stop.abort(new Error('enough')), 50);
    const begun = Date.now();
    expect((await fault(work)).message).to.equal('enough');
    expect(Date.now() - begun).to.be.lessThan(patience(2000));
  });
});

describe('work in a thread of its own', () => {
  const thread = new WorkThread<{ act: (what: string) => string }>(
    new URL('../support/faulty-thread.js', import.meta.url),
    (limit) => new PindroError('request_invalid', { why: `more than ${limit}` }),
    { patience: 3000, memory: 64 },
  );

  it('is given up when it takes too long or too much, and what comes after it is done', async () => {
    const works = ['one', 'for ever', 'two', 'too much', 'break', 'refuse', 'three'].map((what) =>
      thread.ask('act', what).catch((error: PindroError) => `${error.code}: ${error.message}`),
    );
    const told = await Promise.all(works);
    expect(told[4]).to.match(/^internal: /);
    expect(told.toSpliced(4, 1)).to.deep.equal([
      'one done',
      'request_invalid: more than 3 s of CPU time',
      'two done',
      'request_invalid: more than 64 MB of memory',
      'request_invalid: not this',
      'three done',
    ]);
    expect((await fault(thread.ask('act', 'refuse'))).mistakes).to.deep.equal([{ at: '/a', message: 'no' }]);
  });

  it('is refused where too much waits, and told when the service stops', async () => {
    const works = Array.from({ length: 50 }, () => fault(thread.ask('act', 'for ever')));
    const { code, details } = await fault(thread.ask('act', 'one'));
    expect({ code, details }).to.deep.equal({ code: 'documents_busy', details: { waiting: 50, seconds: 5 } });
    thread.close();
    for (const work of works) expect((await work).code).to.equal('stopping');
  });
});

describe('checking long documents', () => {
  const checker = new FlowChecker();
  after(() => checker.close());
  const long = (last: string) =>
    `format: pindro/flow@1\nname: x\nsteps:\n${Array.from({ length: 1500 }, (_, index) => `  s${index}: { kind: text, with: { text: "some words for step ${index}" } }`).join('\n')}\n  last: { kind: text, with: { text: "${last}" } }\n`;

  it('happens beside everything else and says the same', async () => {
    let longest = 0;
    let last = performance.now();
    const beat = setInterval(() => {
      longest = Math.max(longest, performance.now() - last);
      last = performance.now();
    }, 5);
    const [good, bad] = await Promise.all([checker.check(long('fine'), {}), checker.check(long('${ input.x'), {})]);
    clearInterval(beat);
    expect(good.mistakes).to.deep.equal([]);
    expect(Object.keys(good.document!.steps)).to.have.length(1501);
    expect(bad.mistakes[0]).to.include({ at: '/steps/last/with/text', line: 1504 });
    expect(longest).to.be.lessThan(patience(1500));
  });

  it('short ones are checked on the spot', async () => {
    expect((await checker.check('a: [', {})).mistakes[0]).to.include({ line: 1 });
    expect(
      (await checker.check({ format: 'pindro/flow@1', name: 'x', steps: {} }, {})).mistakes[0]!.message,
    ).to.contain('at least one step');
  });
});

describe('times of schedules', () => {
  const schedule = (overlap: string): EntryRecord => ({
    id: overlap,
    flow: 'f',
    kind: 'schedule',
    path: overlap,
    on: true,
    sealed: null,
    usedAt: null,
    settings: { kind: 'schedule', cron: '* * * * *', zone: 'UTC', input: {}, missed: 'skip', overlap } as never,
  });

  /** Lets two times come while the first run is under way, by a clock of the test's own. */
  async function twice(overlap: string): Promise<{ begun: number; most: number }> {
    let now = 0;
    let begun = 0;
    let open = 0;
    let most = 0;
    const ends: (() => void)[] = [];
    const scheduler = new Scheduler({
      store: { list: () => [schedule(overlap)], used: () => {} } as unknown as EntryStore,
      now: () => now,
      failed: () => {},
      begin: () => {
        begun++;
        most = Math.max(most, ++open);
        return new Promise<void>((resolve) => ends.push(() => resolve(void open--)));
      },
    });
    for (const minute of ['10:01', '10:02']) {
      const due = Date.parse(`2027-02-14T${minute}:00Z`);
      now = due - 5;
      scheduler.reload();
      now = due;
      await new Promise((resolve) => setTimeout(resolve, 60));
    }
    ends[0]!();
    await new Promise((resolve) => setTimeout(resolve, 20));
    scheduler.close();
    for (const end of ends) end();
    return { begun, most };
  }

  it('are worked out in their zone, through the change of the clocks', () => {
    const due = (zone: string, after: string) => nextDue({ cron: '30 2 * * *', zone }, new Date(after)).toISOString();
    expect(due('UTC', '2027-02-14T10:00:00Z')).to.equal('2027-02-15T02:30:00.000Z');
    expect(due('Europe/Oslo', '2027-02-14T10:00:00Z')).to.equal('2027-02-15T01:30:00.000Z');
    expect(due('Europe/Oslo', '2027-07-14T10:00:00Z')).to.equal('2027-07-15T00:30:00.000Z');
  });

  it('leave out, keep waiting or let in what comes while the last run is under way', async () => {
    expect(await twice('skip')).to.deep.equal({ begun: 1, most: 1 });
    expect(await twice('allow')).to.deep.equal({ begun: 2, most: 2 });
    expect(await twice('wait')).to.deep.equal({ begun: 2, most: 1 });
  });
});

describe('asking a model once', () => {
  it('gives data in a schema, through the service and a real model stand-in', async () => {
    const [house, model] = await Promise.all([workspace(), startModel()]);
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'house-1' } });
    await house.api.importFlow({
      body: {
        document:
          'format: pindro/flow@1\nname: read\ninput: { type: object, properties: { mail: { type: string } } }\nsteps:\n  read:\n    kind: model\n    with:\n      model: house\n      message: "${ input.mail }"\n      schema: { type: object, required: [hut, party], properties: { hut: { type: string, enum: [larch, kestrel] }, party: { type: integer, description: people } } }\nresult: "${ steps.read.data }"',
      },
    });
    const run = (mail: string) => house.api.runFlow({ name: 'read', body: { input: { mail } } });
    expect((await run('We are 7 people and would like to stay in kestrel.')).result).to.deep.equal({
      hut: 'kestrel',
      party: 7,
    });
    expect((await run('Is anybody there?')).error).to.include({ code: 'model_garbage' });
    await house.close();
    await model.close();
  });
});
