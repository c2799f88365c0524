import { diagnose, type ErrorCode, PindroError, type Span } from '@pindro/core';
import { expect } from 'chai';

const span = (
  spanId: string,
  parentId: string | null,
  work: Span['work'],
  error: PindroError | null,
  more: Partial<Span> = {},
): Span => ({
  traceId: 't',
  spanId,
  parentId,
  run: 'r1',
  work,
  name: spanId,
  start: 0,
  end: 5,
  status: error ? 'error' : 'ok',
  attributes: {},
  ...(error && { error: error.toRecord() }),
  ...more,
});
const trace = (spans: Span[]) => ({
  runs: [{ id: 'r1', flow: 'send-load', parentRun: null, state: 'failed' as const, error: null }],
  spans,
});
const failing = (error: PindroError, work: Span['work'] = 'tool') =>
  trace([span('run', null, 'run', error), span('lift', 'run', 'step', error), span('leaf', 'lift', work, error)]);

describe('the diagnosis', () => {
  it('names tool, argument and reason when a tool reported an error', () => {
    const error = new PindroError(
      'tool_reported_error',
      { tool: 'lift.schedule_load', why: 'at most 350 kg' },
      {
        details: {
          server: 'lift',
          tool: 'schedule_load',
          arguments: { weight_kg: 400 },
          blamed: ['weight_kg'],
          why: 'at most 350 kg',
        },
      },
    );
    const [finding, ...more] = diagnose(failing(error));
    expect(more).to.deep.equal([]);
    expect(finding).to.deep.include({
      code: 'tool_error',
      severity: 'failure',
      span: 'leaf',
      title: 'schedule_load of lift refused weight_kg = 400: at most 350 kg',
      place: { flow: 'send-load', at: '/steps/lift/with/arguments/weight_kg' },
    });
  });

  const cases: [ErrorCode, string, Record<string, string | number>][] = [
    ['arguments_refused', 'arguments_refused', { tool: 'x', argument: 'night' }],
    ['input_refused', 'arguments_refused', { argument: 'night' }],
    ['rule_breaks_tool', 'rule_supplies_it', { tool: 'x', argument: 'hut' }],
    ['server_unreachable', 'server_unreachable', { server: 'lift' }],
    ['server_lost', 'server_unreachable', { server: 'lift', tool: 'x' }],
    ['server_wants_key', 'not_authorised', { server: 'lift' }],
    ['tool_held', 'tool_held', { server: 'lift' }],
    ['program_ended', 'program_failed', { server: 'trails' }],
    ['server_left_alone', 'server_unreachable', { server: 'lift' }],
    ['model_refused', 'not_authorised', { model: 'house', status: 401, kind: 'key' }],
    ['model_refused', 'model_refused', { model: 'house', status: 500, kind: 'fault' }],
    ['timed_out', 'timed_out', {}],
    ['model_unreachable', 'model_unreachable', { model: 'house' }],
    ['model_garbage', 'model_unreachable', { model: 'house' }],
    ['round_limit', 'limit_reached', {}],
    ['token_limit', 'limit_reached', {}],
    ['no_value', 'no_value', { expression: 'input.x' }],
    ['step_failed', 'step_failed', {}],
    ['condition_not_boolean', 'wrong_type', {}],
  ];
  for (const [code, rule, details] of cases) {
    it(`explains ${code} as ${rule}, with what to do and where`, () => {
      const error = new PindroError(code, { ...details, why: 'because', limit: 3 }, { details });
      const [finding] = diagnose(failing(error));
      expect(finding).to.include({ code: rule, severity: 'failure', span: 'leaf' });
      for (const part of ['title', 'why', 'fix'] as const)
        expect(finding![part], part).to.be.a('string').and.not.equal('');
      expect(finding!.place).not.to.equal(null);
    });
  }

  it('finds nothing wrong with a run that went well, and warns of what was dealt with', () => {
    expect(diagnose(trace([span('run', null, 'run', null), span('a', 'run', 'step', null)]))).to.deep.equal([]);
    const dealt = diagnose(
      trace([span('run', null, 'run', null), span('a', 'run', 'step', new PindroError('step_failed', { why: 'x' }))]),
    );
    expect(dealt.map((finding) => finding.severity)).to.deep.equal(['warning']);
  });

  it('puts what made the run fail before what only went wrong beside it', () => {
    const beside = new PindroError('timed_out', { what: 'a', limit: '1s' });
    const cause = new PindroError('step_failed', { why: 'no' });
    const spans = [
      span('agent', 'run', 'agent', null),
      span('early', 'agent', 'tool', beside),
      span('run', null, 'run', cause),
      span('late', 'run', 'step', cause),
    ];
    expect(diagnose(trace(spans)).map((finding) => [finding.span, finding.severity])).to.deep.equal([
      ['late', 'failure'],
      ['early', 'warning'],
    ]);
  });

  it('says that a run was interrupted', () => {
    const [finding] = diagnose({
      runs: [{ id: 'r1', flow: 'f', parentRun: null, state: 'interrupted', error: null }],
      spans: [],
    });
    expect(finding).to.include({ code: 'interrupted', run: 'r1' });
  });
});
