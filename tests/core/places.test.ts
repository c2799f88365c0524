import { deepest, fixWords, placeWords } from '@pindro/core';
import { expect } from 'chai';

describe('where something is changed', () => {
  it('is said in words, down to the field', () => {
    expect(placeWords({ flow: 'send-load', at: '/steps/lift/with/arguments/weight_kg' })).to.equal(
      'step lift of flow send-load, at with › arguments › weight_kg',
    );
    expect(placeWords({ flow: 'send-load', at: '/steps/lift' })).to.equal('step lift of flow send-load');
    expect(placeWords({ flow: 'send-load', at: '' })).to.equal('flow send-load');
    expect(placeWords({ server: 'lift' })).to.equal('tool server lift');
    expect(placeWords({ model: 'house' })).to.equal('model connection house');
    expect(placeWords({ endpoint: 'huts' })).to.equal('endpoint huts');
    expect(placeWords({ credential: 'lift-key' })).to.equal('credential lift-key');
    expect(placeWords({ table: 'huts' })).to.equal('table huts');
  });

  it('is cut to what is there', () => {
    const document = { steps: { lift: { with: { toolbox: [{ server: 'lift' }], 'a/b': { c: 1 } } } } };
    expect(deepest(document, '/steps/lift/with/toolbox/0/tools/x')).to.equal('/steps/lift/with/toolbox/0');
    expect(deepest(document, '/steps/lift/with/toolbox/7')).to.equal('/steps/lift/with/toolbox');
    expect(deepest(document, '/steps/lift/with/a~1b/c')).to.equal('/steps/lift/with/a~1b/c');
    expect(deepest(document, '/steps/nobody')).to.equal('/steps');
    expect(deepest(document, '/constructor/prototype')).to.equal('');
    expect(deepest(undefined, '/steps/lift')).to.equal('/steps/lift');
  });
});

describe('a change that is proposed', () => {
  it('is said as a request', () => {
    const at = '/steps/say/with/text';
    expect(fixWords({ do: 'change', flow: 'greet', at, from: 'a', to: 'b' })).to.equal(
      'change step say of flow greet, at with › text from "a" to "b"',
    );
    expect(fixWords({ do: 'change', flow: 'greet', at, from: null, to: { n: 1 } })).to.contain(
      'from nothing to {"n":1}',
    );
    expect(fixWords({ do: 'change', flow: 'greet', at, from: 'x'.repeat(500), to: 1 }).length).to.be.below(200);
    expect(fixWords({ do: 'transport', server: 'lift', from: 'http', to: 'sse' })).to.equal(
      'use the transport sse for tool server lift instead of http',
    );
    expect(fixWords({ do: 'accept', server: 'lift', tools: ['a', 'b'] })).to.contain('a, b of tool server lift');
    expect(fixWords({ do: 'publish', flow: 'greet' })).to.equal('publish flow greet');
    expect(fixWords({ do: 'model', model: 'house', from: 'huose', to: 'house' })).to.equal(
      'use the model "house" on model connection house instead of "huose"',
    );
  });
});
