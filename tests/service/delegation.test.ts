import { expect } from 'chai';
import { deskFlow } from '../support/desk.js';
import { type Reply, type ScriptedModel, scriptedModel } from '../support/scripted-model.js';
import { furnish, type Workspace, workspace } from '../support/workspace.js';

const COUNT = `format: pindro/flow@1
name: count-beds
input: { type: object, properties: { hut: { type: string } } }
steps:
  beds: { kind: shape, with: { value: { beds: 12 } } }
result: "\${ steps.beds.value }"
`;
const call = (name: string, args: object) => ({ calls: [{ name, arguments: args }] });
const count = (hut: string) => call('count_beds', { hut });

describe('work that an agent hands on', function () {
  this.timeout(30_000);
  let house: Workspace;
  let model: ScriptedModel;
  const replies: Reply[] = [{ text: 'ready' }];
  before(async () => {
    [house, model] = await Promise.all([workspace(), scriptedModel(replies)]);
    furnish(house.service);
    await house.api.addModel({ body: { name: 'house', base: model.url, model: 'm' } });
    house.service.flows.drafts.save(COUNT);
    const tools = 'toolbox: [{ flow: count-beds, name: count_beds }]';
    house.service.flows.drafts.save(deskFlow(tools, { name: 'counting-desk' }));
  });
  after(async () => {
    await house.close();
    await model.close();
  });

  /** What came of each call in the tree, in order, where the first agent has these limits. */
  const callsWithin = async (limits: string, ...said: Reply[]) => {
    const tools = 'toolbox: [{ flow: counting-desk, name: counting_desk }, { flow: count-beds, name: count_beds }]';
    house.service.flows.drafts.save(deskFlow(`${tools}\nlimits: { ${limits} }`));
    replies.length = 0;
    // The stand-in counts what it was asked: its replies begin where it is now.
    replies.push(...Array.from({ length: model.requests.length }, () => ({ text: '' })), ...said);
    const { run } = await house.api.runFlow({ name: 'desk', body: { input: { message: 'How many?' } } });
    const { spans, state } = await house.api.getRun({ id: run });
    expect(state).to.equal('done');
    return spans
      .filter(({ work }) => work === 'tool')
      .sort((a, b) => a.start - b.start)
      .map(({ attributes, error }) => `${attributes['gen_ai.tool.name']} ${error?.code ?? 'done'}`);
  };
  const handsOn = call('counting_desk', { message: 'How many beds?' });

  it('spends the calls of who handed it on', async () => {
    const said = [handsOn, count('larch'), count('alder'), { text: 'Twelve.' }, count('birch'), { text: 'Twelve.' }];
    expect(await callsWithin('calls: 2', ...said)).to.deep.equal([
      'counting_desk done',
      'count_beds done',
      'count_beds call_limit',
      'count_beds call_limit',
    ]);
    const told = JSON.stringify(model.requests.at(-1)!.body.messages.at(-1));
    expect(told).to.contain('limit of 2 tool calls is reached').and.contain('say what could not be done');
  });

  it('spends the runs of who handed it on', async () => {
    const said = [handsOn, count('larch'), { text: 'Nobody knows.' }, { text: 'Nobody knows.' }];
    expect(await callsWithin('runs: 1', ...said)).to.deep.equal(['counting_desk done', 'count_beds run_limit']);
  });

  it('is not held back by limits that nobody set', async () => {
    const said = [handsOn, count('larch'), { text: 'Twelve.' }, count('alder'), { text: 'Twelve each.' }];
    expect(await callsWithin('rounds: 4', ...said)).to.deep.equal([
      'counting_desk done',
      'count_beds done',
      'count_beds done',
    ]);
  });
});
