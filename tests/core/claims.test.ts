import { admits, type CallRecord, claimIn, receiptOf } from '@pindro/core';
import { expect } from 'chai';

/** Answers that say something was done, by whoever answers. */
const OWN = [
  'I have reserved 2 bunks in larch.',
  'I’ve booked it for you.',
  'I just sent the load up.',
  'We have already ordered three sacks of flour.',
  'I went and looked, and then I reserved it.',
  'Done: the load goes up tomorrow.',
  'All set! See you in larch.',
  'Sure. It’s done.',
  'I have gone ahead and cancelled the booking.',
];
/** Answers that say something is so, which may have been looked up. */
const SAID = [
  'Two bunks are reserved for you.',
  'The load has been scheduled for Sunday.',
  'Your order was successfully placed.',
  'The booking is now confirmed.',
];
/** Answers that claim nothing. */
const NEITHER = [
  'Larch is booked out that night.',
  'Available: 16 bunks in larch, and 12 are free.',
  'I have looked: the lift is running.',
  'I can reserve them once you tell me the night.',
  'Which hut do you mean?',
  'I have returned your question.',
  'The lift is closed until March.',
  'Shall I book it?',
  'You could have 3 bunks in kestrel.',
  'I checked the list and found two loads.',
];
const ADMITTING = [
  'I couldn’t book it.',
  "I couldn't book it: at most 350 kg.",
  'It was refused by the warden.',
  'The load failed, but the bunks are reserved.',
  'Unfortunately larch is full.',
  'It still waits for an approval.',
  'I do not know whether the load is booked.',
  'I booked the bunks, but not the load.',
];
const ADMITTING_NOTHING = ['No problem, it is all booked!', 'I booked it without any trouble.', 'Booked. No worries.'];

const call = (state: CallRecord['state'], more: Partial<CallRecord> = {}): CallRecord => ({
  ...{ call: 'c', tool: 'schedule_load', arguments: { hut: 'larch', weight_kg: 20 }, state, text: 'so it went' },
  ...{ data: null, reads: false, cost: 0, run: null },
  ...more,
});
const words = (answer: string, more: object = {}) => ({
  ...{ answer, end: 'answer' as const, canDo: true, didBefore: false },
  ...more,
});
const contradicts = (calls: CallRecord[], answer: string, more: object = {}) =>
  receiptOf(calls, words(answer, more)).contradicts;

describe('what an answer claims', () => {
  for (const answer of OWN) it(`is a deed of its own: ${answer}`, () => expect(claimIn(answer)).to.equal('own'));
  for (const answer of SAID) it(`is that something is so: ${answer}`, () => expect(claimIn(answer)).to.equal('said'));
  for (const answer of NEITHER) it(`is nothing: ${answer}`, () => expect(claimIn(answer)).to.equal(null));
  for (const answer of ADMITTING)
    it(`is held back by what it admits: ${answer}`, () => expect(admits(answer)).to.equal(true));
  for (const answer of ADMITTING_NOTHING)
    it(`admits nothing by being polite: ${answer}`, () => expect(admits(answer)).to.equal(false));
});

describe('a receipt', () => {
  it('speaks against a claim that nothing bears out, and against none that something does', () => {
    for (const answer of OWN) {
      expect(contradicts([], answer), answer).to.contain('no tool');
      expect(contradicts([call('done')], answer), answer).to.equal(null);
      expect(contradicts([call('failed')], answer), answer).to.contain('schedule load failed');
    }
  });

  it('lets what was looked up be told, and what was done before', () => {
    const looked = call('done', { tool: 'list_loads', reads: true });
    for (const answer of SAID) {
      expect(contradicts([], answer), answer).to.contain('no tool');
      expect(contradicts([looked], answer), answer).to.equal(null);
    }
    expect(contradicts([looked], OWN[0]!)).to.contain('no tool');
    expect(contradicts([], OWN[0]!, { didBefore: true })).to.equal(null);
  });

  it('expects no deed of whoever has no tool that does one', () => {
    for (const answer of [...OWN, ...SAID]) expect(contradicts([], answer, { canDo: false }), answer).to.equal(null);
  });

  it('says what of it was left unsaid', () => {
    const half = [call('done'), call('refused', { tool: 'reserve_bunks' })];
    expect(contradicts(half, 'See you in larch!')).to.equal(
      'The answer does not mention that reserve bunks was rejected.',
    );
    expect(contradicts(half, 'The load goes up; the bunks were refused.')).to.equal(null);
    expect(contradicts([call('unknown'), call('waiting', { tool: 'order' })], 'All done.')).to.equal(
      'The answer says that the work is done, but schedule load has an unknown outcome and order is still waiting.',
    );
  });

  it('takes a call for mended only where the same was done for the same things', () => {
    const failed = call('failed', { arguments: { hut: 'larch', weight_kg: 400 } });
    const mended = call('done', { arguments: { hut: 'larch', weight_kg: 300 } });
    const other = call('done', { arguments: { hut: 'kestrel', weight_kg: 20 } });
    expect(receiptOf([failed, mended], words('')).open).to.deep.equal([]);
    expect(receiptOf([mended, failed], words('')).open, 'not what came before').to.have.length(1);
    expect(receiptOf([failed, other], words('')).open, 'not for another hut').to.have.length(1);
    expect(receiptOf([call('refused'), mended], words('')).open, 'what was refused stays refused').to.have.length(1);
    const unreadable = call('failed', { arguments: {} });
    expect(receiptOf([unreadable, mended], words('')).open).to.deep.equal([]);
  });

  it('tells what another agent did in place of its being asked', () => {
    const inner = receiptOf([call('done', { tool: 'order' }), call('failed', { tool: 'send' })], words('Ordered.'));
    const handed = call('done', { tool: 'provisions', receipt: inner });
    const { done, open, looked } = receiptOf(
      [handed, call('done', { reads: true })],
      words('It is ordered; sending failed.'),
    );
    expect(done.map(({ tool }) => tool)).to.deep.equal(['order']);
    expect(open.map(({ tool }) => tool)).to.deep.equal(['send']);
    expect(looked).to.equal(1);
  });

  it('keeps to a line, whatever came back', () => {
    const { done } = receiptOf([call('done', { text: `first\nsecond ${'x'.repeat(500)}` })], words(''));
    expect(done[0]!.says)
      .to.match(/^first second x+…$/)
      .and.have.length(200);
  });
});
