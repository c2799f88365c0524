import { expect } from 'chai';
import { deskFlow } from '../support/desk.js';
import { pindro } from '../support/process.js';
import { type Reply, type ScriptedModel, scriptedModel } from '../support/scripted-model.js';
import { furnish, type Workspace, workspace } from '../support/workspace.js';

/** A flow that answers at once with what an expression comes to. */
const flow = (name: string, input: string, result: string) => `format: pindro/flow@1
name: ${name}
input: ${input}
steps:
  all: { kind: shape, with: { value: ${result} } }
result: "\${ steps.all.value }"
`;
const FIND = flow(
  'find-hut',
  '{ type: object, properties: { beds: { type: integer } } }',
  '{ hut: { name: larch, beds: "${ input.beds }" } }',
);
const BOOK = flow(
  'book',
  '{ type: object, required: [hut, nights], properties: { hut: { type: string }, nights: { type: integer } } }',
  '{ booked: "${ input.hut }", nights: "${ input.nights }" }',
);
const TOOLBOX = `instructions: |
  You look after huts.
  The hut spoken of is \${ kept.hut }, with \${
    kept.beds } beds.
toolbox:
  - { flow: find-hut, name: find_hut, keep: { hut: result.hut.name, beds: result.hut.beds, worth: result.worth } }
  - { flow: book, arguments: { hut: { set: "\${ kept.hut }" } } }`;
const call = (name: string, args: object) => ({ calls: [{ name, arguments: args }] });

describe('values kept of results', function () {
  this.timeout(30_000);
  let house: Workspace;
  let model: ScriptedModel;
  const replies: Reply[] = [
    { text: 'ready' },
    call('book', { nights: 2 }),
    call('find_hut', { beds: 9 }),
    call('book', { nights: 2 }),
    { text: 'Booked.' },
    call('book', { nights: 3 }),
    { text: 'Booked again.' },
    { text: 'Nothing uses it yet.' },
  ];
  before(async () => {
    [house, model] = await Promise.all([workspace(), scriptedModel(replies)]);
    furnish(house.service);
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'm' } });
    for (const document of [FIND, BOOK, deskFlow(TOOLBOX)]) house.service.flows.drafts.save(document);
  });
  after(async () => {
    await house.close();
    await model.close();
  });
  const say = async (message: string, session: string) => {
    const from = model.requests.length;
    const { run } = await house.api.runFlow({ name: 'desk', body: { input: { message }, session } });
    const systems = model.requests.slice(from).map(({ body }) => String(body.messages[0]!.content).split('\n\n')[0]);
    return { run: await house.api.getRun({ id: run }), systems };
  };

  it('fill rules and instructions from then on, and the model is told what must come first', async () => {
    const { run, systems } = await say('Book two nights.', 'first');
    const tools = run.spans.filter(({ work }) => work === 'tool');
    expect(tools.map(({ status }) => status)).to.deep.equal(['error', 'ok', 'ok']);
    expect(tools[0]!.error).to.deep.include({ code: 'tool_too_early' });
    expect(tools[0]!.error!.message).to.contain('find_hut');
    expect(tools[1]!.attributes['pindro.kept']).to.deep.equal({ hut: 'larch', beds: 9 });
    expect(tools[1]!.attributes['pindro.not_kept']).to.have.keys('worth');
    expect(tools[2]!.output).to.deep.equal({ booked: 'larch', nights: 2 });
    expect(systems[0]).to.equal('You look after huts.');
    expect(systems.at(-1)).to.equal('You look after huts.\nThe hut spoken of is larch, with 9 beds.');
    const book = model.requests.at(-1)!.body.tools!.find((tool) => tool.function.name === 'book')!;
    expect((book.function.parameters as { properties: object }).properties).to.have.keys('nights');
  });

  it('hold for the next exchange of the conversation, and for no other', async () => {
    const { run, systems } = await say('And three.', 'first');
    expect(run.spans.find(({ work }) => work === 'tool')!.output).to.deep.equal({ booked: 'larch', nights: 3 });
    expect(systems[0]).to.contain('is larch, with 9 beds');
    expect((await say('What is kept?', 'second')).systems[0]).to.equal('You look after huts.');
  });

  it('stand in the memory, where people read them', async () => {
    const { items } = await house.api.listMemories({ query: { search: 'larch' } });
    expect(items).to.have.length(1);
    expect((await house.api.getMemory({ id: items[0]!.id })).kept).to.deep.equal({ hut: 'larch', beds: 9 });
    const told = await pindro(['memory', 'show', items[0]!.id], {
      env: { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey },
    });
    expect(told.out)
      .to.contain('stored values')
      .and.match(/hut\s+larch/);
  });

  it('are checked before anything runs: names that nothing keeps, and what cannot be worked out', async () => {
    const wrong = TOOLBOX.replace('kept.hut }" }', 'kept.hutt }" }').replace('result.hut.beds', 'result.hut.beds +');
    const { mistakes } = await house.api.checkFlow({ body: { document: deskFlow(wrong) } });
    expect(mistakes.map(({ at }) => at)).to.have.members([
      '/steps/desk/with/toolbox/0/keep/beds',
      '/steps/desk/with/toolbox/1/arguments/hut/set',
    ]);
    const unknown = mistakes.find(({ at }) => at.endsWith('/set'))!;
    expect(`${unknown.message} ${unknown.hint}`).to.contain('"hutt"').and.contain('hut');
  });
});
