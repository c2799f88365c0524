import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import { type Lift, type Mailbox, startLift, startMailbox } from '@pindro/standins';
import { expect } from 'chai';
import { createTransport } from 'nodemailer';
import { callTool, discard, temporary, until } from '../support/workspace.js';

describe('the lift company', () => {
  let data: string;
  let lift: Lift;
  let mailbox: Mailbox;
  beforeEach(async () => {
    data = temporary();
    mailbox = await startMailbox();
    lift = await startLift({ key: 'k', file: join(data, 'lift.json'), smtpPort: mailbox.smtpPort });
  });
  afterEach(async () => {
    await lift.close();
    await mailbox.close();
    discard(data);
  });
  const client = async (key = 'k') => {
    const made = new Client({ name: 'test', version: '1' });
    await made.connect(
      new StreamableHTTPClientTransport(new URL(lift.url), {
        requestInit: { headers: { Authorization: `Bearer ${key}` } },
      }),
    );
    return made;
  };

  it('lets nobody in without its key', async () => {
    expect(String(await client('wrong').catch((error: Error) => error))).to.match(/a valid bearer key is needed/);
    expect((await fetch(lift.url, { method: 'POST' })).status).to.equal(401);
  });

  it('books, lists and cancels loads, and keeps them', async () => {
    const made = await client();
    const booked = await callTool(made, 'schedule_load', {
      hut: 'larch',
      day: '2027-02-14',
      weight_kg: 120,
      goods: 'flour',
    });
    expect(booked.structuredContent).to.deep.include({
      load: 'L-0001',
      hut: 'larch',
      state: 'waiting',
      station: 'valley',
    });
    await callTool(made, 'schedule_load', { hut: 'kestrel', day: '2027-02-15', weight_kg: 20 });
    const loads = async (filter: object) =>
      ((await callTool(made, 'list_loads', filter as never)).structuredContent!.loads as { load: string }[]).map(
        (load) => load.load,
      );
    expect(await loads({})).to.deep.equal(['L-0001', 'L-0002']);
    expect(await loads({ hut: 'kestrel' })).to.deep.equal(['L-0002']);
    expect(await loads({ day: '2027-02-14', station: 'valley' })).to.deep.equal(['L-0001']);
    expect((await callTool(made, 'cancel_load', { load: 'L-0001' })).structuredContent).to.include({
      state: 'cancelled',
    });
    expect((await callTool(made, 'cancel_load', { load: 'L-0001' })).content[0]!.text).to.contain('cancelled already');
    expect((await callTool(made, 'cancel_load', { load: 'L-0009' })).content[0]!.text).to.contain('no load L-0009');
    expect((await callTool(made, 'lift_status', {})).structuredContent).to.deep.equal({
      running: true,
      carries_kg: 350,
      waiting: 1,
    });
    expect(JSON.parse(readFileSync(join(data, 'lift.json'), 'utf8'))).to.have.length(2);
    await made.close();
  });

  it('refuses what is too heavy with an error that a model can read', async () => {
    const made = await client();
    for (const [weight_kg, isError] of [
      [350, false],
      [350.5, true],
      [0, true],
      [-3, true],
    ] as const) {
      const answer = await callTool(made, 'schedule_load', { hut: 'larch', day: '2027-02-14', weight_kg });
      expect(answer.isError ?? false, String(weight_kg)).to.equal(isError);
    }
    const heavy = await callTool(made, 'schedule_load', { hut: 'larch', day: '2027-02-14', weight_kg: 400 });
    expect(heavy.content[0]!.text).to.equal('The lift carries at most 350 kg; weight_kg was 400. Split the load.');
    await made.close();
  });

  it('writes to the hut when a load is booked', async () => {
    const made = await client();
    await callTool(made, 'schedule_load', { hut: 'stonewater', day: '2027-02-14', weight_kg: 12, goods: 'candles' });
    const mail = await until(() => mailbox.messages[0], 'the mail');
    expect(mail).to.deep.include({
      from: 'desk@valley-lift.example',
      to: ['stonewater@alder-ridge.example'],
      subject: 'Load L-0001 is booked',
    });
    expect(mail.text).to.contain('12 kg of candles');
    await made.close();
  });
});

describe('the mailbox', () => {
  it('takes mail over SMTP and shows it over HTTP, newest first', async () => {
    const arrived: string[] = [];
    const mailbox = await startMailbox({ onMessage: (message) => arrived.push(message.subject) });
    const mail = createTransport({ host: '127.0.0.1', port: mailbox.smtpPort, secure: false, ignoreTLS: true });
    for (const subject of ['one', 'zwei ü'])
      await mail.sendMail({
        from: 'a@alder-ridge.example',
        to: ['b@alder-ridge.example', 'c@alder-ridge.example'],
        subject,
        text: 'Grüße',
      });
    const { items } = (await (await fetch(`${mailbox.url}/messages`)).json()) as {
      items: { subject: string; to: string[]; text: string }[];
    };
    expect(items.map((item) => item.subject)).to.deep.equal(['zwei ü', 'one']);
    expect(items[0]).to.deep.include({ to: ['b@alder-ridge.example', 'c@alder-ridge.example'] });
    expect(items[0]!.text.trim()).to.equal('Grüße');
    expect(arrived).to.deep.equal(['one', 'zwei ü']);
    expect((await fetch(`${mailbox.url}/other`)).status).to.equal(404);
    mail.close();
    await mailbox.close();
  });
});
