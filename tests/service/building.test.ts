import { expect } from 'chai';
import { furnish, until, type Workspace, workspace } from '../support/workspace.js';

const refusal = (work: Promise<unknown>) =>
  work.then(
    () => expect.fail('it worked'),
    (error) => error.problem,
  );
const simple = (name: string, text: string) =>
  `format: pindro/flow@1\nname: ${name}\nsteps:\n  say: { kind: text, with: { text: "${text}" } } # said\nresult: "\${ steps.say.text }"\n`;

describe('drafts and revisions', () => {
  let house: Workspace;
  beforeEach(async () => {
    house = await workspace();
    furnish(house.service);
  });
  afterEach(() => house.close());

  it('keeps a draft with mistakes, tells them, and does not run it', async () => {
    const saved = await house.api.saveDraft({
      name: 'new-one',
      body: { document: { format: 'pindro/flow@1', name: 'new-one', steps: {} } },
    });
    expect(saved.mistakes[0]!.message).to.contain('needs at least one step');
    expect(saved.summary).to.deep.include({ sound: false, revision: null });
    expect((await refusal(house.api.runFlow({ name: 'new-one', body: {} }))).code).to.equal('flow_invalid');
    expect((await refusal(house.api.publishFlow({ name: 'new-one', body: {} }))).code).to.equal('flow_invalid');
  });

  it('writes a changed document into the text that is there, with its comments', async () => {
    await house.api.importFlow({ body: { document: simple('s', 'one') } });
    const { document } = await house.api.getFlow({ name: 's' });
    const changed = structuredClone(document) as { steps: { say: { with: { text: string } } } };
    changed.steps.say.with.text = 'two';
    await house.api.saveDraft({ name: 's', body: { document: changed } });
    expect((await house.api.getFlow({ name: 's' })).text).to.equal(simple('s', 'two'));
  });

  it('refuses to save over what somebody else has saved meanwhile', async () => {
    await house.api.importFlow({ body: { document: simple('s', 'one') } });
    const { version } = await house.api.getFlow({ name: 's' });
    await house.api.saveDraft({ name: 's', body: { document: simple('s', 'theirs'), version } });
    expect(
      (await refusal(house.api.saveDraft({ name: 's', body: { document: simple('s', 'mine'), version } }))).code,
    ).to.equal('draft_newer');
    expect((await refusal(house.api.saveDraft({ name: 's', body: { document: simple('t', 'x') } }))).at).to.equal(
      '/name',
    );
    expect((await refusal(house.api.saveDraft({ name: 's', body: { document: 'a: [' } }))).mistakes[0]).to.include({
      line: 1,
    });
  });

  it('publishes with a note, compares, makes an old revision live again, and lets runs keep theirs', async () => {
    await house.api.importFlow({ body: { document: simple('s', 'one') } });
    await house.api.publishFlow({ name: 's', body: { note: 'first' } });
    await house.api.importFlow({ body: { document: simple('s', 'two') } });
    await house.api.publishFlow({ name: 's', body: {} });
    expect(
      (await house.api.getFlow({ name: 's' })).revisions.map(({ revision, note, live }) => ({ revision, note, live })),
    ).to.deep.equal([
      { revision: 2, note: '', live: true },
      { revision: 1, note: 'first', live: false },
    ]);
    const compared = await house.api.compareFlow({ name: 's', query: { from: '1', to: '2' } });
    expect(compared.changes).to.deep.equal([
      {
        at: '/steps/say/with/text',
        change: 'changed',
        what: 'Step say: text changed',
        before: 'one',
        after: 'two',
      },
    ]);
    expect(compared.steps).to.deep.equal({ say: 'changed' });
    await house.api.activateRevision({ name: 's', revision: '1' });
    expect((await house.api.runFlow({ name: 's', body: { stage: 'live' } })).result).to.equal('one');
    expect((await house.api.getRevision({ name: 's', revision: '2' })).text).to.equal(simple('s', 'two'));
    expect((await refusal(house.api.getRevision({ name: 's', revision: '7' }))).hint).to.contain('2, 1');
  });

  it('says before publishing which tools, flows and ways in a changed input breaks', async () => {
    await house.api.importFlow({
      body: {
        document:
          'format: pindro/flow@1\nname: caller\nsteps: { c: { kind: flow, with: { flow: reserve-bunks, input: { hut: larch, night: "2027-02-14", party: 1 } } } }',
      },
    });
    house.service.entries.add({
      flow: 'reserve-bunks',
      on: true,
      settings: { kind: 'schedule', cron: '0 6 * * *', input: { hut: 'larch' } } as never,
    });
    const { text } = await house.api.getFlow({ name: 'reserve-bunks' });
    await house.api.saveDraft({
      name: 'reserve-bunks',
      body: {
        document: text
          .replace('required: [hut, night, party]', 'required: [hut, night, party, contact]')
          .replace('  properties:', '  properties:\n    contact: { type: string }'),
      },
    });
    const { items } = await house.api.flowImpact({ name: 'reserve-bunks' });
    expect(items.map(({ what, name }) => `${what} ${name}`)).to.deep.equal([
      'tool huts.reserve_bunks',
      'flow caller',
      'entry the schedule "0 6 * * *"',
    ]);
    expect(items[0]!.why).to.equal('Clients must now also send "contact".');
    expect(items[1]!.why).to.contain('does not supply "contact"');
  });

  it('removes a flow only when nothing uses it', async () => {
    expect((await refusal(house.api.removeFlow({ name: 'reserve-bunks' }))).detail).to.contain('endpoint "huts"');
    await house.api.importFlow({ body: { document: simple('s', 'one') } });
    await house.api.removeFlow({ name: 's' });
    expect((await refusal(house.api.getFlow({ name: 's' }))).code).to.equal('not_found');
  });

  it('previews a document, fills a field with data, and lists the step kinds with their forms', async () => {
    const preview = await house.api.previewFlow({
      body: {
        document:
          'format: pindro/flow@1\nname: p\nsteps: { e: { kind: each, with: { list: [1], steps: { a: { kind: text, with: { text: "${ itm }" } } } } } }',
      },
    });
    expect(preview.bodies['/steps/e/with']!.cards[0]).to.include({ name: 'a', kind: 'text' });
    expect(preview.mistakes[0]!.hint).to.contain('item');
    const evaluate = (value: string) =>
      house.api.evaluate({ body: { value, input: { hut: 'larch' }, steps: { a: { n: 2 } } } });
    expect(await evaluate('${ input.hut } ${ steps.a.n * 2 }')).to.deep.equal({
      value: 'larch 4',
      missing: [],
      error: null,
    });
    expect((await evaluate('${ steps.b.x }')).missing[0]).to.contain('"steps.b.x" has no value');
    expect((await evaluate('${ 1 + "a" }')).error!.code).to.equal('expression_failed');
    const { items } = await house.api.listKinds();
    expect(items.map((kind) => kind.name)).to.include.members([
      'http',
      'each',
      'approve',
      'script',
      'shape',
      'model',
      'wait',
      'answer',
      'mail',
    ]);
    expect(items.find((kind) => kind.name === 'script')!.plain).to.deep.equal(['code']);
  });
});

describe('trying a draft out', () => {
  let house: Workspace;
  before(async () => {
    house = await workspace();
    furnish(house.service);
    await house.api.importFlow({
      body: {
        document:
          'format: pindro/flow@1\nname: t\ninput: { type: object, properties: { pin: { type: string, format: password } } }\nsteps:\n  add: { kind: table, with: { table: bookings, do: add, row: { hut: larch, party: 1 } } }\n  say: { kind: text, after: [add], with: { text: "row ${ steps.add.row.id } ${ has(input.pin) ? input.pin : \'\' }" } }\nresult: "${ steps.say.text }"',
      },
    });
  });
  after(() => house.close());
  const rows = () => house.service.tables.definitions.summary('bookings').rows;
  const runDraftTrial = async (
    body: object,
    on: (event: { kind: string; path: string; state: string }, run: string) => void = () => {},
  ) => {
    for await (const event of house.api.runDraftTrial({ name: 't', body: body })) {
      if (event.type === 'live') on(event.live as never, event.run);
      if (event.type === 'outcome') return event.outcome;
    }
    return expect.fail('there was no outcome');
  };

  it('tells the steps as they go, and keeps the last input, sealed', async () => {
    const seen: string[] = [];
    const outcome = await runDraftTrial({ input: { pin: 'secret-pin-9' } }, (live) =>
      seen.push(`${live.path} ${live.state}`),
    );
    expect(outcome).to.include({ state: 'done', result: 'row 1 •••' });
    expect(seen).to.deep.equal(['add running', 'add done', 'say running', 'say done']);
    expect((await house.api.flowTrials({ name: 't' })).samples).to.deep.equal([{ name: '', input: { pin: '•••' } }]);
    // What was shown masked stands for what it was.
    expect((await runDraftTrial({ input: { pin: '•••' } })).result).to.equal('row 2 •••');
    const again = await house.api.runFlow({ name: 't', body: { input: { pin: 'short' } } });
    expect(again.error!.message).to.contain('needs at least 6');
  });

  it('keeps named inputs', async () => {
    await house.api.saveSample({ name: 't', body: { name: 'small', input: { pin: 'pin-of-ines' } } });
    await house.api.saveSample({ name: 't', body: { name: 'small', input: { pin: 'pin-of-marit' } } });
    expect((await house.api.flowTrials({ name: 't' })).samples[1]).to.deep.equal({
      name: 'small',
      input: { pin: '•••' },
    });
    await house.api.removeSample({ name: 't', sample: 'small' });
    expect((await house.api.flowTrials({ name: 't' })).samples).to.have.length(1);
  });

  it('holds a result that tries use again, and live runs never', async () => {
    const { run } = await runDraftTrial({});
    const before = rows();
    await house.api.stubStep({ name: 't', step: 'add', body: { run } });
    expect((await runDraftTrial({})).result).to.equal('row 3 ');
    expect(rows()).to.equal(before);
    expect((await runDraftTrial({ trial: { held: false } })).result).to.equal('row 4 ');
    await house.api.publishFlow({ name: 't', body: {} });
    expect((await house.api.runFlow({ name: 't', body: { stage: 'live' } })).result).to.equal('row 5 ');
    await house.api.removeStub({ name: 't', step: 'add' });
    expect((await runDraftTrial({})).result).to.equal('row 6 ');
    expect((await refusal(house.api.stubStep({ name: 't', step: 'nothing', body: { run } }))).detail).to.contain(
      'no result',
    );
  });

  it('does one step alone on an earlier run, whose secrets stay masked', async () => {
    const { run } = await runDraftTrial({ input: { pin: 'secret-pin-9' } });
    const before = rows();
    const only = await runDraftTrial({ trial: { only: { step: 'say', run } } });
    expect(only.result).to.deep.equal({ text: `row ${before} •••` });
    expect(rows()).to.equal(before);
  });

  it('goes step by step: waits before each, goes on, ends', async () => {
    const before = rows();
    const waits: string[] = [];
    const outcome = await runDraftTrial({ trial: { stepping: true } }, (live, run) => {
      if (live.state !== 'waiting') return;
      waits.push(live.path);
      void house.api.continueRun({ id: run, body: { go: live.path === 'add' } });
    });
    expect(waits).to.deep.equal(['add', 'say']);
    expect(outcome.state).to.equal('cancelled');
    expect(rows()).to.equal(before + 1);
    expect((await refusal(house.api.continueRun({ id: outcome.run, body: {} }))).detail).to.contain('No step');
  });
});

describe('waiting for a person', () => {
  it('lists what is asked, takes one decision, and shows the run as waiting meanwhile', async () => {
    const house = await workspace();
    await house.api.importFlow({
      body: {
        document:
          'format: pindro/flow@1\nname: a\nsteps: { ask: { kind: approve, with: { title: Go?, facts: { n: 1 } } } }\nresult: "${ steps.ask.by }"',
      },
    });
    const told = await house.api.runFlow({ name: 'a', body: {} });
    expect(told).to.deep.include({ state: 'waiting' });
    expect(told.waitsFor).to.include({ for: 'person' });
    const { items } = await house.api.listApprovals({});
    expect(items[0]).to.deep.include({ run: told.run, path: 'ask', title: 'Go?', facts: { n: 1 }, decision: null });
    expect((await house.api.status()).approvals).to.equal(1);
    expect((await house.api.getRun({ id: told.run })).state).to.equal('waiting');
    const decide = () => house.api.decide({ run: told.run, body: { path: 'ask', decision: 'approved', note: 'yes' } });
    expect(await decide()).to.include({ decision: 'approved', by: 'owner', note: 'yes' });
    expect((await refusal(decide())).code).to.equal('approval_decided');
    await until(async () => (await house.api.getRun({ id: told.run })).state === 'done', 'the run to end');
    expect((await house.api.getRun({ id: told.run })).result).to.equal('owner');
    expect((await house.api.listApprovals({ query: { open: 'false' } })).items).to.have.length(1);
    await house.close();
  });

  it('expires by itself, and is withdrawn when the run is cancelled', async () => {
    const house = await workspace();
    const ask = (expires: string) =>
      `format: pindro/flow@1\nname: a\nsteps: { ask: { kind: approve, with: { title: Go?, expires: ${expires} } } }`;
    await house.api.importFlow({ body: { document: ask('80ms') } });
    const { run } = await house.api.runFlow({ name: 'a', body: {} });
    await until(async () => (await house.api.getRun({ id: run })).error?.code === 'not_approved', 'the end of waiting');
    await house.api.importFlow({ body: { document: ask('1d') } });
    const second = await house.api.runFlow({ name: 'a', body: {} });
    await house.api.cancelRun({ id: second.run });
    await until(async () => (await house.api.listApprovals({})).items.length === 0, 'the question to be withdrawn');
    await house.close();
  });
});
