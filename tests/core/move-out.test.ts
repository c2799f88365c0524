import { type ToolboxEntry, type ToolDescription, toolboxAsTools } from '@pindro/core';
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
      'lift__status',
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
