import { applyToolboxReview, type ToolboxEntry, type ToolDescription, toolboxAsTools } from '@pindro/core';
import { expect } from 'chai';

const tool = (name: string, description: string): ToolDescription => ({
  name,
  description,
  inputSchema: { type: 'object', properties: { hut: { type: 'string' } } },
});
const LIFT = [tool('list_loads', 'Lists loads.'), tool('schedule-load', 'Books a load.'), tool('status', 'Tells.')];

describe('a toolbox that becomes an endpoint', () => {
  const moved = (...rows: ToolboxEntry[]) => toolboxAsTools(rows, { lift: LIFT, trails: [tool('status', 'Trails.')] });

  it('takes the tools that its rows choose, under names fit for a model', () => {
    expect(moved({ server: 'lift', use: ['list_*', 'schedule-load'] }).tools).to.deep.equal({
      list_loads: { server: 'lift', tool: 'list_loads' },
      schedule_load: { server: 'lift', tool: 'schedule-load' },
    });
  });

  it('tells tools of the same name apart by where they come from', () => {
    expect(Object.keys(moved({ server: 'lift', use: ['status'] }, { server: 'trails' }).tools)).to.deep.equal([
      'status',
      'trails__status',
    ]);
  });

  it('keeps words and rules, and says when to use a tool before what it does', () => {
    const { tools } = moved(
      {
        server: 'lift',
        use: ['list_loads'],
        tools: { list_loads: { when: 'In the morning.', arguments: { hut: { set: '${ caller.hut }' } } } },
      },
      { flow: 'reserve-bunks', name: 'reserve', description: 'Reserve a bed.', arguments: { hut: 'omit' } },
    );
    expect(tools).to.deep.equal({
      list_loads: {
        server: 'lift',
        tool: 'list_loads',
        description: 'In the morning.\n\nLists loads.',
        arguments: { hut: { set: '${ caller.hut }' } },
      },
      reserve: { flow: 'reserve-bunks', description: 'Reserve a bed.', arguments: { hut: 'omit' } },
    });
  });

  it('leaves what stands on an endpoint already', () => {
    const { tools, rest } = moved({ endpoint: 'huts', use: ['reserve_bunks'] }, { flow: 'note' });
    expect(Object.keys(tools)).to.deep.equal(['note']);
    expect(rest).to.deep.equal([{ endpoint: 'huts', use: ['reserve_bunks'] }]);
  });

  for (const value of ['${ input.hut }', 'in ${ steps.look.hut }', '${ item }', '${ run.id }'])
    it(`refuses a value that only a run has: ${value}`, () => {
      expect(() => moved({ flow: 'note', arguments: { hut: { set: value } } })).to.throw('set from this run');
    });
});

describe('a proposal of the review in a toolbox', () => {
  const box: ToolboxEntry[] = [
    { flow: 'note', arguments: { text: { ask: { description: 'What' } } } },
    { server: 'lift', tools: { status: { when: 'In the morning.', arguments: { hut: 'omit' } } } },
  ];
  const mended = (row: number, own: string | null, fix: Parameters<typeof applyToolboxReview>[2]) =>
    applyToolboxReview(box, { row, own }, fix)?.[row];

  it('changes the words of a flow in its row, and of a server for one tool', () => {
    expect(mended(0, null, { rename: 'keep_note' })).to.include({ flow: 'note', name: 'keep_note' });
    expect(mended(0, null, { argument: 'text', schema: { type: 'string' } })).to.deep.include({
      arguments: { text: { ask: { description: 'What', schema: { type: 'string' } } } },
    });
    expect(mended(1, 'status', { description: 'Tells whether it runs.' })).to.deep.equal({
      server: 'lift',
      tools: { status: { description: 'Tells whether it runs.', arguments: { hut: 'omit' } } },
    });
    expect(mended(1, 'list_loads', { argument: 'hut', description: 'Name of the hut' })).to.deep.include({
      tools: {
        ...(box[1] as { tools: object }).tools,
        list_loads: { arguments: { hut: { ask: { description: 'Name of the hut' } } } },
      },
    });
    expect(box[0]).to.not.have.property('name');
  });

  it("leaves the name of a tool that is somebody else's", () => {
    expect(applyToolboxReview(box, { row: 1, own: 'status' }, { rename: 'lift_status' })).to.equal(null);
    expect(applyToolboxReview(box, { row: 7, own: null }, { rename: 'x' })).to.equal(null);
  });
});
