import {
  ANY_EFFECT,
  annotationsOf,
  type Effects,
  effectsOf,
  effectsOfTool,
  estimateTokens,
  type JsonSchema,
  type ReviewedTool,
  requireFlow,
  resultSchema,
  reviewTools,
} from '@pindro/core';
import { expect } from 'chai';
import { used } from '../support/patience.js';

const object = (properties: Record<string, object>, required: string[] = []): JsonSchema =>
  ({ type: 'object', properties, required }) as unknown as JsonSchema;
const tool = (given: Partial<ReviewedTool> & { name: string }): ReviewedTool => ({
  description: 'Says how the snow lies around one of the huts this morning.',
  inputSchema: object({}),
  readOnly: true,
  ...given,
});
const codes = (tools: ReviewedTool[]) => reviewTools(tools).map((reviewSuggestion) => reviewSuggestion.id);

describe('Review of a tool list', () => {
  it('says nothing about a good list', () => {
    expect(
      reviewTools([
        tool({
          name: 'bunk_availability',
          description: 'Shows how many bunks are free in a hut on one night. Use it before you reserve.',
          inputSchema: object(
            {
              hut: { type: 'string', enum: ['kestrel', 'larch'], description: 'Name of the hut' },
              night: { type: 'string', format: 'date', description: 'The night, such as 2027-02-14' },
            },
            ['hut', 'night'],
          ),
        }),
        tool({
          name: 'reserve_bunks',
          readOnly: false,
          description: 'Reserves bunks for a party. Use it once availability is confirmed.',
          inputSchema: object({ party: { type: 'integer', description: 'How many people' } }, ['party']),
        }),
      ]),
    ).to.deep.equal([]);
  });

  it('finds names that say nothing and names that mislead, and proposes others', () => {
    const suggestions = reviewTools([
      tool({ name: 'my_flow_2', title: 'Snow report of a hut' }),
      tool({ name: 'create_report', description: 'Shows the report of a hut for the night before.' }),
      tool({ name: 'get_bunk', readOnly: false, description: 'Takes a bunk for a guest who stands at the door.' }),
      tool({ name: 'get_weather', readOnly: null, description: 'Tells the weather of tomorrow for the whole valley.' }),
    ]);
    expect(suggestions.map(({ id, fix }) => [id, fix])).to.deep.equal([
      ['name_vague/my_flow_2', { rename: 'snow_report_of_a_hut' }],
      ['name_misleads/create_report', { rename: 'get_report' }],
      ['name_misleads/get_bunk', { rename: 'change_bunk' }],
    ]);
    expect(suggestions[1]!.why).to.contain('nothing has happened');
  });

  it('finds descriptions that are missing, repeat the name, are short, long or the same', () => {
    expect(
      codes([
        tool({ name: 'snow_report', description: '' }),
        tool({ name: 'road_report', description: 'Road report.' }),
        tool({ name: 'lift_report', description: 'How the lift runs' }),
        tool({ name: 'tale', description: 'Once upon a time '.repeat(80) }),
        tool({ name: 'one', description: 'Lends skis to the guests of a hut.' }),
        tool({ name: 'other', description: 'Lends skis to the guests of a hut.' }),
      ]),
    ).to.deep.equal([
      'description_missing/snow_report',
      'description_missing/road_report',
      'description_same/one',
      'description_same/other',
      'description_short/lift_report',
      'description_long/tale',
    ]);
  });

  it('finds arguments without words, choices hidden in words, and what no model can know', () => {
    const suggestions = reviewTools([
      tool({
        name: 'ask_for_load',
        readOnly: false,
        inputSchema: object(
          {
            hut: { type: 'string', description: 'One of kestrel, larch or stonewater.' },
            season: { type: 'string', description: 'Either "summer" or "winter"' },
            weight: { type: 'integer', maximum: 350 },
            warden_id: { type: 'string', description: 'The warden' },
          },
          ['hut', 'weight', 'warden_id'],
        ),
      }),
    ]);
    expect(suggestions.map(({ id, fix }) => [id, fix])).to.deep.equal([
      ['argument_undescribed/ask_for_load/weight', { argument: 'weight', description: 'Weight, a number up to 350.' }],
      [
        'choices_in_prose/ask_for_load/hut',
        {
          argument: 'hut',
          schema: {
            type: 'string',
            description: 'One of kestrel, larch or stonewater.',
            enum: ['kestrel', 'larch', 'stonewater'],
          },
        },
      ],
      [
        'choices_in_prose/ask_for_load/season',
        {
          argument: 'season',
          schema: { type: 'string', description: 'Either "summer" or "winter"', enum: ['summer', 'winter'] },
        },
      ],
      ['argument_unknowable/ask_for_load/warden_id', null],
    ]);
    expect(suggestions.at(-1)!.instead).to.contain('caller.warden_id');
  });

  it('leaves an id alone that another tool gives out', () => {
    const order = tool({
      name: 'order_state',
      description: 'Says how far an order of provisions has come.',
      inputSchema: object({ order_id: { type: 'string', description: 'Number of the order' } }, ['order_id']),
    });
    const list = tool({ name: 'recent', description: 'Shows the last ten orders of the hut, newest first.' });
    expect(codes([order])).to.deep.equal(['argument_unknowable/order_state/order_id']);
    expect(codes([order, list])).to.deep.equal([]);
  });

  it('finds tools that are alike, results without end, and lists that are too long', () => {
    const one = tool({ name: 'list_bunks', description: 'Lists the bunks of a hut that are free on a night.' });
    const two = tool({ name: 'bunks_free', description: 'Lists the bunks of a hut that are free on one night.' });
    expect(codes([one, two])).to.deep.equal(['tools_alike/bunks_free', 'result_unbounded/list_bunks']);
    expect(codes([{ ...one, bounded: true }])).to.deep.equal([]);
    const limited = { ...one, inputSchema: object({ limit: { type: 'integer', description: 'Maximum number' } }) };
    expect(codes([limited])).to.deep.equal([]);
    const many = Array.from({ length: 30 }, (_, i) =>
      tool({ name: `report_${'abcdefghijklmnopqrstuvwxyzäöüß'[i]}`, description: `${`word${i} `.repeat(180)}` }),
    );
    expect(codes(many).slice(0, 2)).to.deep.equal(['too_many_tools', 'too_many_tokens']);
  });

  it('names each tool of a long list once, and looks only so far', () => {
    const many = (count: number, words: (index: number) => string) =>
      reviewTools(
        Array.from({ length: count }, (_, n) =>
          tool({ name: `reserve_hut_${n}`, description: words(n), readOnly: false }),
        ),
      );
    const alike = many(150, (n) => `Reserves bunks in hut ${n} for a party on one night, with breakfast`);
    const ids = alike.filter(({ code }) => code === 'tools_alike').map(({ id }) => id);
    expect(ids).to.have.length(149);
    expect(new Set(ids).size).to.equal(149);
    const same = many(2000, () => 'Reserves bunks in a hut for a party on one night.');
    expect(same.filter(({ code }) => code === 'description_same')).to.have.length(2000);
    // Half of the words differ: each would have to be held against each.
    const begun = used();
    const apart = many(
      2000,
      (n) => `Reserves bunks for a party on day${n} at time${n} in hut${n} with guide${n} and meal${n}`,
    );
    expect(apart.filter(({ code }) => code === 'tools_alike')).to.deep.equal([]);
    expect(used() - begun).to.be.below(3000);
  });

  it('finds what a model dialect refuses, and writes it plainer where nothing is lost', () => {
    const suggestions = reviewTools([
      tool({
        name: 'forecast',
        inputSchema: {
          ...object({
            // A property may be called like a word of the standard.
            not: { type: 'string', description: 'What to leave out of it' },
            unit: { const: 'metric', description: 'Which unit' },
            day: { type: ['string', 'null'], description: 'Which day' },
            place: { oneOf: [{ const: 'valley' }, { const: 'ridge' }], description: 'Where' },
            area: { $ref: '#/$defs/area', description: 'Which area' },
          }),
          anyOf: [{ required: ['unit'] }],
        } as unknown as JsonSchema,
      }),
    ]);
    expect(suggestions.map(({ argument, fix }) => [argument, fix])).to.deep.equal([
      [null, null],
      ['unit', { argument: 'unit', schema: { enum: ['metric'], description: 'Which unit' } }],
      ['day', { argument: 'day', schema: { type: 'string', description: 'Which day' } }],
      ['place', { argument: 'place', schema: { type: 'string', enum: ['valley', 'ridge'], description: 'Where' } }],
      ['area', null],
    ]);
  });

  it('estimates tokens alike for alike texts', () => {
    expect(estimateTokens('')).to.equal(0);
    expect(estimateTokens('Reserve bunks')).to.equal(3);
    expect(estimateTokens({ a: 1 })).to.equal(5);
  });
});

describe('What a flow does to the world', () => {
  const flow = (steps: string, result = '') =>
    requireFlow(
      `format: pindro/flow@1\nname: f\ninput: { type: object, properties: { n: { type: integer } } }\nsteps:\n${steps}\n${result}`,
    );
  const nothing = () => ANY_EFFECT;
  const annotations = (steps: string, ofUse: () => Effects = nothing) => annotationsOf(effectsOf(flow(steps), ofUse));

  it('is worked out from its steps, those of loops too', () => {
    expect(annotations('  a: { kind: table, with: { table: t, do: find } }')).to.deep.equal({
      readOnlyHint: true,
      openWorldHint: false,
    });
    expect(annotations('  a: { kind: table, with: { table: t, do: add, row: { n: 1 } } }')).to.deep.equal({
      readOnlyHint: false,
      destructiveHint: false,
      idempotentHint: false,
      openWorldHint: false,
    });
    expect(
      annotations(
        '  all:\n    kind: each\n    with:\n      list: [1]\n      steps:\n        gone: { kind: http, with: { method: DELETE, url: "http://127.0.0.1/x" } }',
      ),
    ).to.deep.equal({ readOnlyHint: false, destructiveHint: true, idempotentHint: true, openWorldHint: true });
    // A step that is off does nothing.
    expect(
      annotations('  a: { kind: mail, off: true, with: { to: [a@example.org], subject: s, text: t } }'),
    ).to.include({
      readOnlyHint: true,
    });
  });

  it('takes in what it calls, and fears the worst of what it does not know', () => {
    const reads = effectsOfTool({ annotations: { readOnlyHint: true } });
    expect(annotations('  a: { kind: flow, with: { flow: other } }', () => reads)).to.include({ readOnlyHint: true });
    expect(annotations('  a: { kind: tool, with: { server: lift, tool: "${ caller.id }" } }', () => reads)).to.include({
      destructiveHint: true,
    });
    expect(annotationsOf(effectsOfTool({}))).to.deep.equal({
      readOnlyHint: false,
      destructiveHint: true,
      idempotentHint: false,
      openWorldHint: true,
    });
  });

  it('has a result whose schema is told as far as it is certain', () => {
    const find = '  a: { kind: table, with: { table: t, do: find } }';
    expect(
      resultSchema(
        flow(
          find,
          'result: { rows: "${ steps.a.rows }", count: "${ steps.a.count }", say: "It is ${ input.n }", first: "${ steps.a.rows[0].x }" }',
        ),
      ),
    ).to.deep.equal({
      type: 'object',
      properties: { rows: { type: 'array' }, count: { type: 'integer' }, say: { type: 'string' }, first: {} },
    });
    expect(resultSchema(flow(find, 'result: "${ steps.a }"'))).to.equal(null);
    expect(
      resultSchema(flow(`${find}\n  b: { kind: stop, after: [a], with: { as: done } }`, 'result: { a: 1 }')),
    ).to.equal(null);
  });
});
