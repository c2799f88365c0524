import { checkFlow, warningsOf } from '@pindro/core';
import { expect } from 'chai';

const found = (document: string, around = {}) =>
  checkFlow(document, around).mistakes.map(({ line, message }) => `${line} ${message}`);

const TWELVE = `format: pindro/flow@1
name: Sail
titel: Set sail
input:
  type: object
  properties: { who: { type: string } }
steps:
  find:
    kind: table
    with: { table: trips, do: find, limit: ten }
  look:
    kind: tabel
  ask:
    kind: http
    after: [fnd]
    with: { url: 8080 }
  way:
    kind: choose
    after: [find]
    with: { when: { many: "steps.find.count > 3" } }
  each:
    kind: each
    after: [find]
    with:
      list: "\${ input.who }"
      steps: { say: { kind: text, with: { text: "\${ item" } } }
  slow:
    kind: wait
    with: { for: 5 minutes }
  mail:
    kind: mail
    with: { to: harbour, subject: Hello, text: "Hello" }
result: "\${ steps.nobody.text }"
`;

describe('the check of a document', () => {
  it('finds all of twelve mistakes at their lines, whatever the first one is', () => {
    const mistakes = found(TWELVE);
    for (const line of [
      '2 "name" must be',
      '3 "titel" is not allowed here',
      '10 "limit" must be a number',
      '12 There is no step kind "tabel"',
      '15 "after" refers to a missing step "fnd"',
      '16 "url" must be a string',
      '20 "many" must be true or false',
      '25 "input.who" is a string, and an array is required',
      '26 "${" is not closed',
      '29 "for" must be a duration',
      '32 "harbour" is not an email address',
      '33 "steps.nobody.text": steps has no "nobody"',
    ])
      expect(
        mistakes.some((mistake) => mistake.startsWith(line)),
        `${line}\n${mistakes.join('\n')}`,
      ).to.equal(true);
    expect(mistakes).to.have.length(12);
  });

  const around = {
    tables: ['trips'],
    columns: {
      trips: [
        { name: 'day', type: 'date' },
        { name: 'free', type: 'whole' },
      ],
    },
    servers: {
      lift: [
        {
          name: 'schedule_load',
          inputSchema: {
            type: 'object',
            required: ['weight'],
            properties: { weight: { type: 'number' }, station: { enum: ['valley', 'top'] } },
          },
        },
      ],
    },
    models: ['house'],
  };

  it('finds four more where a service knows what there is', () => {
    const document = `format: pindro/flow@1
name: sail
steps:
  find:
    kind: table
    with: { table: trips, do: find, where: { dya: 2027-01-01 }, sort: fre }
  add:
    kind: table
    with: { table: trips, do: add, row: { free: two } }
  load:
    kind: tool
    with: { server: lift, tool: schedule_load, arguments: { station: vally } }
  other:
    kind: tool
    with: { server: lift, tool: schedule_lod }
`;
    expect(found(document, around)).to.deep.equal([
      '6 Table "trips" has no column "dya"',
      '6 Table "trips" has no column "fre"',
      '9 Column "free" accepts an integer, not "two"',
      '12 schedule_load requires "weight"',
      '12 "station" of schedule_load is invalid: the value must be one of "valley", "top", not "vally"',
      '15 "lift" has no tool "schedule_lod"',
    ]);
  });

  it('warns of what works, and does nothing now', () => {
    const { document } = checkFlow(
      `format: pindro/flow@1
name: desk
steps:
  ask:
    kind: agent
    with: { model: house, message: Hello, toolbox: [{ server: lift, use: ["list_*"], tools: { book: { when: Always } } }] }
`,
      around,
    );
    expect(warningsOf(document!, around).map(({ at, message }) => `${at} ${message}`)).to.deep.equal([
      '/steps/ask/with/toolbox/0/use/0 Tool server "lift" has no tool that matches "list_*"',
      '/steps/ask/with/toolbox/0/tools/book Tool server "lift" has no tool "book"',
    ]);
  });

  it('holds the type of an expression against what a kind takes, and conditions against true and false', () => {
    const document = (fields: string) => `format: pindro/flow@1
name: sail
input: { type: object, properties: { who: { type: string }, days: { type: integer }, rate: { type: number } } }
steps: { do: ${fields} }
`;
    const one = (fields: string) => checkFlow(document(fields)).mistakes.map(({ message }) => message);
    expect(one('{ kind: table, with: { table: a, do: find, limit: "${ input.who }" } }')).to.deep.equal([
      '"input.who" is a string, and a number is required',
    ]);
    expect(one('{ kind: table, with: { table: a, do: find, limit: "${ input.days }" } }')).to.deep.equal([]);
    expect(one('{ kind: choose, with: { when: { a: "${ input.days }" } } }')).to.deep.equal([
      '"input.days" is a number, and true or false is required',
    ]);
    expect(one('{ kind: http, with: { url: "${ input.days }" } }')).to.deep.equal([
      '"input.days" is a number, and a string is required',
    ]);
    for (const fine of ['input.days > 1 ? 1 : input.rate', 'input.rate in [1, 2]', '[1] + [input.rate]'])
      expect(one(`{ kind: text, with: { text: "\${ ${fine} }" } }`), fine).to.deep.equal([]);
    expect(one('{ kind: text, with: { text: "${ input.days > 1 ? input.who : input.rate }" } }')[0]).to.contain('type');
  });
});
