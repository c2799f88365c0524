import type { ProblemError } from '@pindro/contract';
import { expect } from 'chai';
import { expectAccessible } from '../support/browser.js';
import { type ConsolePage, consolePage } from '../support/console-page.js';
import { deskFlow } from '../support/desk.js';
import { type Reply, type ScriptedModel, scriptedModel } from '../support/scripted-model.js';
import { furnish, type Workspace } from '../support/workspace.js';

const DESK = deskFlow('', { memory: ', turns: 2, notes: true, abstract: true' });
const note = (about: string, text: string) => ({ calls: [{ name: 'note_down', arguments: { about, text } }] });

describe('what agents remember', function () {
  this.timeout(60_000);
  let there: ConsolePage;
  let house: Workspace;
  let model: ScriptedModel;
  const replies: Reply[] = [
    { text: 'ready' },
    note('hut', 'larch, key s3cret-of-the-house'),
    { text: 'Noted.' },
    { text: 'Two nights.' },
    { text: 'Three nights.' },
    { text: 'They come to larch.' },
    { text: 'Until March.' },
    { text: 'They come to larch till March.' },
    { text: 'As you say.' },
    { text: 'Still to larch.' },
  ];
  before(async () => {
    [there, model] = await Promise.all([consolePage(), scriptedModel(replies)]);
    ({ house } = there);
    furnish(house.service);
    await house.api.addCredential({ body: { name: 'safe', secret: 's3cret-of-the-house' } });
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'm' } });
    house.service.flows.drafts.save(DESK);
    for (const message of ['I look after larch.', 'How many nights?', 'And then?']) await say(message);
  });
  after(async () => {
    await there.close();
    await model.close();
  });
  afterEach(function () {
    return there.calm(this.currentTest?.state === 'failed');
  });
  const say = async (message: string, session = 'tobias-talks') => {
    const outcome = await house.api.runFlow({ name: 'desk', body: { input: { message }, session } });
    return house.api.getRun({ id: outcome.run });
  };
  const only = async () => (await house.api.listMemories({})).items[0]!;

  it('is listed and read, with secrets masked, and found by its words', async () => {
    const { items } = await house.api.listMemories({});
    expect(items).to.have.length(1);
    expect(items[0]).to.deep.include({
      flow: 'desk',
      step: 'desk',
      stage: 'draft',
      key: ['tobias-talks'],
      exchanges: 2,
      notes: 1,
    });
    const one = await house.api.getMemory({ id: items[0]!.id });
    expect(one.turns.filter(({ role }) => role === 'user').map(({ text }) => text)).to.deep.equal([
      'How many nights?',
      'And then?',
    ]);
    expect(one.abstract).to.equal('They come to larch.');
    expect(one.notes[0]!.text).to.contain('larch, key').and.not.contain('s3cret');
    expect((await house.api.listMemories({ query: { search: 'THREE nights' } })).items).to.have.length(1);
    expect((await house.api.listMemories({ query: { search: 'marmots' } })).items).to.have.length(0);
  });

  it('is summed up without a word of that to who listens', async () => {
    let heard = '';
    for await (const event of house.api.watchFlow({
      name: 'desk',
      body: { input: { message: 'And for how long?' }, session: 'tobias-talks', entry: 'chat' },
    })) {
      const live = event.type === 'live' ? (event.live as { kind: string; text: string }) : null;
      if (live?.kind === 'text') heard += live.text;
    }
    expect(heard).to.equal('Until March.');
    expect((await house.api.getMemory({ id: (await only()).id })).abstract).to.equal('They come to larch till March.');
  });

  it('is a part of the run: what was read, and what was kept', async () => {
    const run = await say('Where to?');
    const memory = run.spans.filter(({ work }) => work === 'memory');
    expect(memory.map(({ name }) => name)).to.deep.equal(['recall', 'keep']);
    expect(JSON.stringify(memory[0]!.output)).to.contain('till March.').and.contain('Until March.');
    expect(memory[1]!.output).to.include({ exchanges: 2 });
    const sent = JSON.stringify(model.requests.at(-2)!.body.messages);
    expect(sent).to.contain('Summary of the conversation so far').and.contain('Your notes from earlier');
  });

  it('is forgotten by itself where nobody added to it for long', async () => {
    const short = DESK.replace('turns: 2,', 'expires: 1s, turns: 2,').replace('abstract: true', 'abstract: false');
    house.service.flows.drafts.save(short.replace('name: desk', 'name: brief'));
    const talk = async (message: string) =>
      house.api.runFlow({ name: 'brief', body: { input: { message }, session: 'short' } });
    await talk('First.');
    await talk('Second.');
    expect(JSON.stringify(model.requests.at(-1)!.body.messages)).to.contain('First.');
    await new Promise((resolve) => setTimeout(resolve, 1100));
    await talk('Third.');
    expect(JSON.stringify(model.requests.at(-1)!.body.messages)).to.not.contain('Second.');
    const { items } = await house.api.listMemories({ query: { search: 'brief' } });
    await house.api.deleteMemory({ id: items[0]!.id });
  });

  it('is corrected and forgotten by people, over the API and in the console', async () => {
    const { id } = await only();
    await there.open('/memory');
    const { page } = there;
    await expectAccessible(page, 'the list of memories');
    await page.getByLabel('Search').fill('larch');
    await page.getByRole('button', { name: 'tobias-talks' }).click();
    const window = page.getByRole('dialog', { name: 'Memory of tobias-talks' });
    await window.getByRole('button', { name: /^Correct\s+hut/ }).click();
    await window.getByLabel('Fact').fill('kestrel since March');
    await window.getByRole('button', { name: 'Correct note' }).click();
    await window.getByText('kestrel since March').waitFor();
    await expectAccessible(page, 'one memory');
    expect((await house.api.getMemory({ id })).notes.map(({ text }) => text)).to.deep.equal(['kestrel since March']);
    await house.api.correctNote({ id, body: { about: 'hut', text: null } });
    await window.getByText('No notes.').waitFor();
    const missing = await house.api
      .correctNote({ id, body: { about: 'hut', text: null } })
      .catch((error: ProblemError) => error.problem);
    expect(missing).to.include({ code: 'not_found' });
    await window.getByRole('button', { name: 'Delete memory' }).click();
    await window.getByRole('button', { name: /Delete permanently/ }).click();
    await page.getByText('No matching memories').waitFor();
    expect((await house.api.listMemories({})).items).to.have.length(0);
    const gone = await house.api.getMemory({ id }).catch((error: ProblemError) => error.problem);
    expect(gone).to.include({ code: 'not_found' });
  });
});
