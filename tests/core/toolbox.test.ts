import type { Exposure, JsonObject, ToolDescription } from '@pindro/core';
import { expect } from 'chai';
import { flow, modelAt, run, spansOf, type TestPorts, testPorts, text, web } from '../support/ports.js';
import { type Reply, type ScriptedModel, scriptedModel } from '../support/scripted-model.js';

const STATUS: ToolDescription = {
  name: 'status',
  description: 'Tells the status.',
  inputSchema: { type: 'object', properties: {} },
};
const RESERVE = flow(
  '  a: { kind: text, with: { text: "${ input.party } in ${ input.hut }" } }',
  'description: Reserves.\ninput: { type: object, required: [hut, party], properties: { hut: { type: string }, party: { type: integer } } }\nresult: "${ steps.a.text }"',
  'reserve-bunks',
);
const FAILS = flow('  a: { kind: stop, with: { as: failed, message: "no room left" } }', '', 'fails');

describe('the toolbox of an agent', () => {
  let model: ScriptedModel;
  let ports: TestPorts;
  const exposures: Record<string, Exposure[]> = {
    huts: [
      {
        name: 'reserve',
        description: 'Reserve bunks.',
        schema: {
          type: 'object',
          required: ['hut', 'party'],
          properties: { hut: { type: 'string' }, party: { type: 'integer' } },
        },
        rules: { hut: { set: '${ caller.hut }' } },
        target: { flow: 'reserve-bunks' },
      },
    ],
    passing: [
      {
        name: 'lift_state',
        description: 'State of the lift.',
        schema: STATUS.inputSchema,
        rules: {},
        target: { server: 'lift', tool: 'status' },
      },
    ],
  };
  const begin = async (replies: Reply[]) => {
    model = await scriptedModel(replies);
    ports = testPorts({
      tools: { lift: [STATUS], trail: [STATUS, { ...STATUS, name: 'report' }] },
      documents: { 'reserve-bunks': RESERVE, fails: FAILS },
      models: modelAt(model.url),
      endpoints: { exposures: async (name: string) => exposures[name] ?? [] },
      fetch: web,
    });
    ports.toolServers.call = async (server, tool) => text(`${tool} of ${server}`);
  };
  const say = (toolbox: string) =>
    run(
      flow(
        `  desk: { kind: agent, with: { model: house, message: hello, toolbox: ${toolbox} } }`,
        'result: "${ steps.desk.calls }"',
      ),
      {},
      ports,
    );
  const offered = () => model.requests[0]!.body.tools?.map((tool) => tool.function.name) ?? [];
  afterEach(() => model.close());

  it('holds tools of endpoints, servers and flows, each called where it belongs', async () => {
    await begin([
      {
        calls: [
          { name: 'reserve', arguments: { party: 3 } },
          { name: 'lift_state', arguments: {} },
          { name: 'report', arguments: {} },
          { name: 'book', arguments: { hut: 'larch', party: 1 } },
        ],
      },
      { text: 'done' },
    ]);
    const outcome = await say(
      '[{ endpoint: huts }, { endpoint: passing }, { server: trail, use: [report] }, { flow: reserve-bunks, name: book, description: Books. }]',
    );
    expect(offered()).to.deep.equal(['reserve', 'lift_state', 'report', 'book']);
    const calls = outcome.result as { tool: string; failed: boolean; result: unknown }[];
    expect(calls.map((call) => [call.tool, call.failed, call.result])).to.deep.equal([
      ['reserve', false, '3 in kestrel'],
      ['lift_state', false, 'status of lift'],
      ['report', false, 'report of trail'],
      ['book', false, '1 in larch'],
    ]);
    const spans = spansOf(ports);
    const children = spans.filter((span) => span.work === 'run' && span.name === 'reserve-bunks');
    expect(children.map((child) => spans.find((span) => span.spanId === child.parentId)?.work)).to.deep.equal([
      'tool',
      'tool',
    ]);
  });

  it('hides what an endpoint sets, with the value of this caller', async () => {
    await begin([{ text: 'ok' }]);
    await say('[{ endpoint: huts }]');
    const { parameters } = model.requests[0]!.body.tools![0]!.function as { parameters: JsonObject };
    expect(parameters).to.deep.include({ required: ['party'] });
  });

  it('the first keeps its name, and what comes later and collides is called by where it comes from', async () => {
    await begin([{ calls: [{ name: 'trail__status', arguments: {} }] }, { text: 'ok' }]);
    const outcome = await say('[{ server: lift }, { server: trail }]');
    expect(offered()).to.deep.equal(['status', 'trail__status', 'report']);
    expect(outcome.result).to.have.nested.property('[0].result', 'status of trail');
    const agent = spansOf(ports).find(({ work }) => work === 'agent')!;
    expect(agent.attributes['pindro.renamed_tools']).to.deep.equal([
      { tool: 'status', from: 'trail', name: 'trail__status' },
    ]);
  });

  it('tells in the trace which patterns fit nothing', async () => {
    await begin([{ text: 'ok' }]);
    await say('[{ server: lift, use: ["stat*", "repotr"] }]');
    expect(spansOf(ports).find((span) => span.work === 'agent')!.attributes).to.deep.include({
      'pindro.idle_patterns': ['repotr'],
      'pindro.tools': ['status'],
    });
  });

  it('tells the model when a flow it called failed', async () => {
    await begin([{ calls: [{ name: 'fails', arguments: {} }] }, { text: 'sorry' }]);
    const outcome = await say('[{ flow: fails }]');
    expect(outcome.state).to.equal('done');
    expect(outcome.result).to.have.nested.property('[0].failed', true);
    expect(model.requests[1]!.body.messages.at(-1)!.content).to.contain('Error: no room left');
  });

  it('fails before the model is asked when a rule cannot be honoured', async () => {
    await begin([{ text: 'never' }]);
    const outcome = await say('[{ flow: reserve-bunks, arguments: { hut: omit } }]');
    expect(outcome.error).to.include({ code: 'rule_breaks_tool' });
    expect(outcome.error!.message).to.contain('required');
    expect(model.requests).to.have.length(0);
  });
});
