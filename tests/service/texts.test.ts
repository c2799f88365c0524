import { join } from 'node:path';
import { openDatabase, RunTexts } from '@pindro/service/parts';
import { expect } from 'chai';
import { discard, temporary } from '../support/workspace.js';

describe('words of runs', () => {
  const data = temporary();
  const database = openDatabase(join(data, 'runs.db'), 'runs');
  const texts = new RunTexts(database);
  after(() => {
    database.driver.close();
    discard(data);
  });
  const found = (words: string) => texts.find(words).runs;

  it('are found in any order, whatever their case and accents, the last one by its beginning', () => {
    texts.ended('r1', 'Send gas up to Larch');
    texts.ended('r2', 'Késtrel wants firewood and gas');
    texts.ended('r3', '');
    expect(found('larch gas')).to.deep.equal(['r1']);
    expect(found('GAS')).to.deep.equal(['r2', 'r1']);
    expect(found('kestrel')).to.deep.equal(['r2']);
    expect(found('fire')).to.deep.equal(['r2']);
    expect(found('fire gas')).to.deep.equal([]);
  });

  it('are words alone: what means something to a search engine means nothing here', () => {
    for (const words of [
      'gas OR larch',
      'gas NOT larch',
      '"gas',
      'gas*',
      'text:gas',
      '(gas',
      'NEAR(gas larch)',
      '-gas',
    ])
      expect(() => found(words), words).to.not.throw();
    expect(found('gas OR larch')).to.deep.equal([]);
    expect(found('')).to.deep.equal([]);
    expect(found('---')).to.deep.equal([]);
  });

  it('are searched among the newest, and it is said where there are more', () => {
    for (let index = 0; index < 5200; index++) texts.ended(`s${index}`, 'snow');
    texts.settle();
    const { runs, more } = texts.find('snow');
    expect(runs).to.have.length(5000);
    expect(runs[0]).to.equal('s5199');
    expect(more).to.equal(true);
    expect(texts.find('larch').more).to.equal(false);
  });

  it('go on being numbered where they were', () => {
    const again = new RunTexts(database);
    again.ended('r9', 'avalanche');
    again.close();
    again.ended('r10', 'avalanche');
    expect(found('avalanche')).to.deep.equal(['r9']);
  });
});
