import { asFlow, checkFlow, type DoneCall } from '@pindro/core';
import { expect } from 'chai';

const call = (tool: string, round: number, args: object, data: object, more: object = {}): DoneCall =>
  ({
    ...{ tool, round, target: { flow: tool.replaceAll('_', '-') }, set: {}, schema: null },
    arguments: args,
    data,
    ...more,
  }) as DoneCall;

describe('a flow out of what an agent did', () => {
  it('reads from where each value came: the message, an earlier result, or nowhere', () => {
    const flow = asFlow('made', 'Send 80 kg of flour to Larch on 2027-02-14, and 80 bags.', [
      call('find_hut', 1, { name: 'larch' }, { rows: [{ id: 'H-7', bunks: 16 }] }),
      call('book_load', 2, { hut_id: 'H-7', weight_kg: 80, bags: 80, note: 'fragile', urgent: true }, { load: 'L-1' }),
      call('tell', 3, { load: 'L-1', cost: '${ never }' }, {}),
    ]);
    expect(flow.steps).to.deep.equal({
      find_hut: { kind: 'flow', with: { flow: 'find-hut', input: { name: '${ input.name }' } } },
      book_load: {
        kind: 'flow',
        after: ['find_hut'],
        with: {
          flow: 'book-load',
          input: {
            hut_id: '${ steps.find_hut.result.rows[0].id }',
            weight_kg: '${ input.weight_kg }',
            bags: '${ input.bags }',
            note: 'fragile',
            urgent: true,
          },
        },
      },
      tell: {
        kind: 'flow',
        after: ['book_load'],
        with: { flow: 'tell', input: { load: '${ steps.book_load.result.load }', cost: '$${ never }' } },
      },
    });
    expect(flow.input).to.deep.equal({
      type: 'object',
      required: ['name', 'weight_kg', 'bags'],
      properties: { name: { type: 'string' }, weight_kg: { type: 'number' }, bags: { type: 'number' } },
    });
    expect(checkFlow(flow).mistakes).to.deep.equal([]);
  });

  it('keeps calls of one round beside one another, each under a name of its own', () => {
    const flow = asFlow('made', 'kestrel and larch', [
      call('look', 1, { hut: 'kestrel' }, { free: 3 }),
      call('look', 1, { hut: 'larch' }, { free: 4 }),
    ]);
    expect(Object.keys(flow.steps)).to.deep.equal(['look', 'look_2']);
    expect(flow.steps.look_2).to.not.have.property('after');
    expect(flow.input!.properties).to.have.keys('hut', 'hut_2');
    expect(flow.result).to.deep.equal({ look: '${ steps.look.result }', look_2: '${ steps.look_2.result }' });
  });
});
