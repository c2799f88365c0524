import { checkFlow, flowJsonSchema, type Mistake, type Surroundings, stepKinds } from '@pindro/core';
import { expect } from 'chai';
import { flow } from '../support/ports.js';

const INPUT =
  'input: { type: object, required: [hut], properties: { hut: { type: string }, party: { type: integer }, weight: { type: number } } }';
const mistakesIn = (document: string, around: Surroundings = {}) => checkFlow(document, around).mistakes as Mistake[];
const only = (document: string, around?: Surroundings) => {
  const mistakes = mistakesIn(document, around);
  expect(mistakes.map((mistake) => mistake.message)).to.have.length(1);
  return mistakes[0]!;
};
const textStep = (text: string, more = '') =>
  flow(`  a: { kind: text, ${more} with: { text: ${JSON.stringify(text)} } }`, INPUT);

describe('the check of a flow', () => {
  it('takes a good flow, as YAML and as JSON', () => {
    const document = textStep('for ${ input.hut }');
    const yaml = checkFlow(document);
    expect(yaml.mistakes).to.deep.equal([]);
    expect(checkFlow(JSON.stringify(yaml.document)).mistakes).to.deep.equal([]);
    expect(checkFlow(yaml.document).mistakes).to.deep.equal([]);
  });

  it('locates broken notation by line and column', () => {
    expect(mistakesIn('format: [')[0]).to.include({ line: 1 });
    expect(mistakesIn('- just\n- a list')[0]!.message).to.contain('A flow needs');
    expect(mistakesIn('')[0]!.message).to.contain('A flow needs');
  });

  it('finds a name that stands twice', () => {
    const mistake = only(flow('  a: { kind: stop }\n  a: { kind: stop }'));
    expect(mistake).to.deep.include({ line: 6, column: 3 });
    expect(mistake.message).to.contain('"a" occurs twice');
  });

  it('finds a cycle and names its steps', () => {
    const mistake = only(
      flow('  a: { kind: stop, after: [c] }\n  b: { kind: stop, after: [a] }\n  c: { kind: stop, after: [b] }'),
    );
    expect(mistake.message).to.match(/cycle: (a → b → c → a|b → c → a → b|c → a → b → c)/);
  });

  it('finds an unknown kind and says what was meant', () => {
    const mistake = only(flow('  a: { kind: tabel }'));
    expect(mistake).to.include({ at: '/steps/a/kind', line: 5, hint: 'Did you mean "table"?' });
  });

  it('finds a dangling link and a branch that is not there', () => {
    expect(only(flow('  place: { kind: stop }\n  b: { kind: stop, after: [plaec] }'))).to.include({
      at: '/steps/b/after/0',
      hint: 'Did you mean "place"?',
    });
    expect(
      only(flow('  a: { kind: choose, with: { when: { yes: true } } }\n  b: { kind: stop, after: [a.yse] }')).hint,
    ).to.equal('Did you mean "yes"?');
    expect(only(flow('  a: { kind: stop }\n  b: { kind: stop, after: [a.error] }')).hint).to.contain(
      'on_error: branch',
    );
    expect(
      mistakesIn(flow('  a: { kind: stop, on_error: branch }\n  b: { kind: stop, after: [a.error] }')),
    ).to.deep.equal([]);
  });

  it('refuses reserved and ill-formed names', () => {
    expect(only(flow('  error: { kind: stop }')).message).to.contain('may not be named');
    expect(only(flow('  Bad-Name: { kind: stop }')).message).to.contain('lower-case');
    expect(only(flow('  a: { kind: stop }', '', 'Bad_Name')).message).to.contain(
      'lower-case letters and digits with single hyphens',
    );
    expect(only(flow('  a: { kind: choose, with: { when: { otherwise: true } } }')).message).to.contain('otherwise');
  });

  it('finds what does not belong and what is missing', () => {
    expect(only(flow('  a: { kind: text, with: { text: x, txet: y } }'))).to.include({ at: '/steps/a/with/txet' });
    expect(only(flow('  a: { kind: text }'))).to.include({ at: '/steps/a/with/text', message: '"text" is missing' });
    expect(only('format: pindro/flow@1\nnam: x\nname: ok\nsteps: { a: { kind: stop } }')).to.include({
      hint: 'Did you mean "name"?',
    });
    expect(only(flow('  a: { kind: stop, timeout: 10 }')).message).to.contain('"timeout" must be');
    expect(only(flow('  a: { kind: stop, timeout: "10" }')).message).to.contain('duration such as 10s');
    expect(only(flow('  a: { kind: table, with: { table: x, do: ad, row: {} } }')).at).to.equal('/steps/a/with/do');
  });

  it('judges a value that an expression will supply only when it is there', () => {
    expect(
      mistakesIn(flow('  a: { kind: table, with: { table: x, do: find, limit: "${ input.party }" } }', INPUT)),
    ).to.deep.equal([]);
    expect(only(flow('  a: { kind: table, with: { table: x, do: find, limit: lots } }')).message).to.contain(
      '"limit" must be',
    );
  });

  it('holds expressions against the declared inputs', () => {
    expect(only(textStep('${ input.hutt }'))).to.include({ line: 5, hint: 'Did you mean "hut"?' });
    expect(only(textStep('${ inptu.hut }')).hint).to.equal('Did you mean "input"?');
    expect(only(textStep('${ input.party + input.hut }')).message).to.contain(
      'an integer and a string cannot be combined with +',
    );
    expect(only(textStep('${ 1 + }')).message).to.contain('ends too early');
    expect(only(textStep('${ input.hut')).message).to.contain('not closed');
    expect(only(textStep('${ }')).message).to.contain('empty');
    expect(
      mistakesIn(
        textStep('$${ not.an.expression } ${ input.party + 1.5 } ${ input.weight == 3 } ${ caller.anything.at.all }'),
      ),
    ).to.deep.equal([]);
  });

  it('holds expressions against the outputs of the steps before', () => {
    const two = (after: string, expression: string) =>
      flow(
        `  place: { kind: table, with: { table: t, do: find } }\n  b: { kind: text, ${after} with: { text: "\${ ${expression} }" } }`,
      );
    expect(mistakesIn(two('after: [place],', 'steps.place.rows[0].bunks + 1'))).to.deep.equal([]);
    expect(only(two('', 'steps.place.rows'))).to.include({ hint: 'Add "place" to "after".' });
    expect(only(two('after: [place],', 'steps.place.rosw')).hint).to.equal('Did you mean "rows"?');
    expect(only(two('after: [place],', 'steps.palce.rows')).hint).to.equal('Did you mean "place"?');
    expect(only(two('after: [place],', 'steps.place.error.code')).message).to.contain('no "error"');
    const goesOn = flow(
      '  a: { kind: text, on_error: continue, with: { text: x } }\n  b: { kind: text, after: [a], with: { text: "${ steps.a.error.message }" } }',
    );
    expect(mistakesIn(goesOn)).to.deep.equal([]);
  });

  it('points at the expression inside of a longer text', () => {
    const mistake = only(
      'format: pindro/flow@1\nname: t\nsteps:\n  a:\n    kind: text\n    with: { text: "one ${ caller.id } two ${ inputs.x }" }',
    );
    expect(mistake).to.include({ line: 6, column: 46 });
  });

  it('knows the names of other things when it is told them', () => {
    const around: Surroundings = {
      tables: ['huts'],
      flows: ['a'],
      servers: { lift: [] },
      models: ['house'],
      endpoints: ['huts'],
    };
    expect(only(flow('  a: { kind: table, with: { table: hut, do: find } }'), around)).to.include({
      at: '/steps/a/with/table',
      hint: 'Did you mean "huts"?',
    });
    const agent = flow(
      '  a: { kind: agent, with: { model: hose, message: x, toolbox: [{ server: lfit }, { endpoint: nope }] } }',
    );
    expect(mistakesIn(agent, around).map((mistake) => mistake.at)).to.have.members([
      '/steps/a/with/model',
      '/steps/a/with/toolbox/0/server',
      '/steps/a/with/toolbox/1/endpoint',
    ]);
  });

  it('refuses an input that is no JSON Schema or no object', () => {
    expect(only(flow('  a: { kind: stop }', 'input: { type: string }')).at).to.equal('/input/type');
    expect(
      only(flow('  a: { kind: stop }', 'input: { type: object, properties: { a: { type: strng } } }')).message,
    ).to.contain('not a valid JSON Schema');
  });

  it('refuses nesting without end and numbers that have lost digits', () => {
    const deep = `${'['.repeat(80)}${']'.repeat(80)}`;
    expect(
      only(`{"format":"pindro/flow@1","name":"t","steps":{"a":{"kind":"stop","with":{"result":${deep}}}}}`).message,
    ).to.contain('nested deeper');
    expect(only(flow('  a: { kind: stop, with: { result: 9007199254740993 } }')).message).to.contain('2^53');
  });

  it('checks a thousand steps in a row without running out of stack', () => {
    const steps = Array.from(
      { length: 1000 },
      (_, index) =>
        `  s${index}: { kind: text, ${index > 0 ? `after: [s${index - 1}],` : ''} with: { text: "${index > 0 ? `\${ steps.s${index - 1}.text }` : 'x'}" } }`,
    );
    expect(mistakesIn(flow(steps.join('\n')))).to.deep.equal([]);
  });

  it('publishes a JSON Schema in which every kind says what it takes', () => {
    const text = JSON.stringify(flowJsonSchema());
    for (const kind of stepKinds()) expect(text).to.contain(`"const":"${kind.name}"`);
  });
});
