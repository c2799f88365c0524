import { fitTurns, newest, partOf, placeOf, priceOf, settingsOf, type Turn } from '@pindro/core';
import { expect } from 'chai';

const user = (text: string): Turn => ({ role: 'user', text });
const said = (text: string): Turn => ({ role: 'assistant', text, calls: [] });
const calls = (id: string): Turn => ({ role: 'assistant', text: '', calls: [{ id, name: 'look', arguments: {} }] });
const result = (call: string, text: string): Turn => ({ role: 'tool', call, name: 'look', text, failed: false });
const long = (word: string) => `${word} `.repeat(400);

describe('a conversation that does not fit', () => {
  const earlier = [user('first'), calls('a'), result('a', long('old')), said('one')];
  const middle = [user('second'), said('two')];
  const now = [user('third'), calls('b'), result('b', long('mid')), calls('c'), result('c', long('new'))];
  const all = [...earlier, ...middle, ...now];

  it('stays as it is where there is room', () => {
    expect(fitTurns(all, 1_000_000)).to.deep.equal({ turns: all, left: [] });
  });

  it('loses results of earlier exchanges first, then the exchanges, then older results of this one', () => {
    const texts = (most: number) => fitTurns(all, most).turns.map(({ text }) => text.slice(0, 12));
    const first = fitTurns(all, 1200);
    expect(first.left).to.deep.equal(['results of earlier turns']);
    expect(first.turns).to.have.length(all.length);
    expect(texts(1200).filter((text) => text.startsWith('(An earlier'))).to.have.length(1);
    const second = fitTurns(all, 842);
    expect(second.left.join()).to.contain('earlier turn');
    expect(second.turns[0]).to.deep.equal(second.turns.find(({ role }) => role === 'user'));
    const third = fitTurns(all, 480);
    expect(third.left.join()).to.contain('older results of this turn');
    expect(third.turns.at(-1)!.text).to.equal(long('new'));
    expect(third.turns[0]!.text).to.equal('third');
  });

  it('cuts even the newest results before it gives up, and says how much is gone', () => {
    const { turns, left } = fitTurns(all, 120);
    expect(left).to.include('the ends of the newest results');
    expect(turns.at(-1)!.text).to.match(/\(The remaining \d+ characters are omitted\.\)$/);
    // Every call keeps its result: a model refuses one without.
    const answered = new Set(turns.flatMap((turn) => (turn.role === 'tool' ? [turn.call] : [])));
    for (const turn of turns)
      if (turn.role === 'assistant') for (const { id } of turn.calls) expect(answered.has(id)).to.equal(true);
  });

  it('is remembered by its newest exchanges, without what the builder said', () => {
    const kept = newest([{ role: 'system', text: 'be brief' }, ...all], 2);
    expect(kept).to.deep.equal([...middle, ...now]);
    expect(newest(all, 0)).to.deep.equal([]);
    expect(newest(all, 99)).to.deep.equal(all);
  });
});

describe('the settings of a model', () => {
  it('from before they had names of their own were fields of the body', () => {
    expect(settingsOf({ temperature: 0.2, top_k: 4, body: { seed: 1 } })).to.deep.equal({
      temperature: 0.2,
      body: { seed: 1, top_k: 4 },
    });
    // Such a name with what it cannot be goes there as it stands.
    expect(settingsOf({ temperature: 'warm', stop: 'end' })).to.deep.equal({
      body: { temperature: 'warm', stop: 'end' },
    });
    expect(settingsOf({})).to.deep.equal({});
  });

  it('say what tokens cost, those that were cached apart', () => {
    const usage = { input: 1_000_000, output: 500_000, cached: 400_000 };
    expect(priceOf({}, usage)).to.equal(null);
    expect(priceOf({ price: { input: 3, output: 15 } }, usage)).to.equal(3 + 7.5);
    expect(priceOf({ price: { input: 3, output: 15, cached: 0.5 } }, usage)).to.be.closeTo(1.8 + 0.2 + 7.5, 1e-9);
  });
});

describe('the place of a memory', () => {
  const own = JSON.stringify(['live', 'desk', 'desk', 'ines', 'talk', 4]);
  it('is told apart: whose it is, and which part', () => {
    expect(placeOf(own)).to.deep.equal({
      ...{ stage: 'live', flow: 'desk', step: 'desk', caller: 'ines', key: ['talk', 4], part: 'turns' },
    });
    expect(placeOf(partOf(own, 'notes'))).to.deep.include({ key: ['talk', 4], part: 'notes' });
    expect(placeOf(JSON.stringify(['draft', 'shared', 'talk']))).to.deep.equal({
      ...{ stage: 'draft', flow: null, step: null, caller: null, key: ['talk'], part: 'turns' },
    });
  });
  it('of a part is no key that a builder can write', () => {
    const shared = JSON.stringify(['draft', 'shared', 'talk']);
    expect(partOf(shared, 'notes')).to.not.equal(JSON.stringify(['draft', 'shared', 'talk', 'notes']));
    expect(partOf(shared, 'notes')).to.not.equal(partOf(shared, 'abstract'));
  });
});
