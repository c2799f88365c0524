import { attribute, type Json, type MadeThing, madeThings, type Span } from '@pindro/core/browser';
import { expect } from 'chai';

const step = (kind: string, input: Json, output: Json, more: Partial<Span> = {}) =>
  ({ work: 'step', status: 'ok', attributes: { [attribute.kind]: kind }, input, output, ...more }) as Span;
const call = (tool: string, status: Span['status'] = 'ok') =>
  ({ work: 'tool', status, attributes: { [attribute.server]: 'lift', [attribute.tool]: tool } }) as never as Span;
const add = { table: 'bookings', do: 'add' };

describe('what a run left behind', () => {
  it('is the rows it added, changed or let go', () => {
    const rows = (count: number) => Array.from({ length: count }, (_, index) => ({ id: index + 1 }));
    const made = madeThings([
      step('table', add, { row: { id: 7 }, refused: false }),
      step('table', { ...add, do: 'upsert' }, { row: { id: 8 }, added: false }),
      step('table', { ...add, do: 'change' }, { rows: rows(2), count: 2, refused: false }),
      step('table', { ...add, do: 'change' }, { rows: rows(9), count: 9, refused: false }),
      step('table', { ...add, do: 'remove' }, { count: 3 }),
    ]);
    const table = 'bookings';
    expect(made).to.deep.equal([
      { label: 'row 7 in bookings', place: { table, row: 7 } },
      { label: 'row 8 in bookings, changed', place: { table, row: 8 } },
      { label: 'row 1 in bookings, changed', place: { table, row: 1 } },
      { label: 'row 2 in bookings, changed', place: { table, row: 2 } },
      { label: '9 rows in bookings, updated', place: { table } },
      { label: '3 removed from bookings', place: { table } },
    ] satisfies MadeThing[]);
  });

  it('is the mail that was taken, and what tools that act have done', () => {
    const made = madeThings([
      step('mail', { subject: 'Gas' }, { id: 'm1', to: ['ines@huts.example'], refused: ['x@huts.example'] }),
      call('book_lift'),
    ]);
    expect(made).to.deep.equal([
      { label: 'mail “Gas” to ines@huts.example', place: null },
      { label: 'book lift at lift', place: { server: 'lift' } },
    ]);
  });

  it('is nothing of what was refused, failed, only read, or stood in for', () => {
    const done = { row: { id: 9 }, refused: false };
    const kinds = { [attribute.kind]: 'table', [attribute.held]: true };
    expect(
      madeThings([
        step('table', add, { row: {}, refused: true }),
        step('table', { table: 'bookings', do: 'find' }, { rows: [{ id: 8 }] }),
        step('table', { table: 'bookings', do: 'remove' }, { count: 0 }),
        step('table', add, done, { status: 'error' }),
        step('table', add, done, { attributes: kinds }),
        step('mail', { subject: 'Gas' }, { id: '', to: [], refused: ['x@huts.example'] }),
        call('lift_status'),
        call('book_lift', 'error'),
      ]),
    ).to.deep.equal([]);
  });
});
