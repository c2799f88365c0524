import {
  attribute,
  DIAGNOSIS_RULES,
  deepest,
  diagnose,
  type ErrorCode,
  Facts,
  type Finding,
  type Json,
  needsOf,
  PindroError,
  type Receipt,
  type Span,
  type Trace,
} from '@pindro/core';
import { expect } from 'chai';

/** A flow as it ran: its steps are those that the cases speak of. */
const DOCUMENT: Json = {
  format: 'pindro/flow@1',
  name: 'send-load',
  steps: {
    lift: {
      kind: 'tool',
      with: { server: 'lift', tool: 'schedule_load', arguments: { weight_kg: 400, hut: 'larch' } },
    },
    desk: {
      kind: 'agent',
      with: {
        model: 'house',
        instructions: 'Help.',
        limits: { rounds: 2 },
        toolbox: [
          { server: 'lift', use: ['shedule_*'], tools: { schedule_load: { arguments: { hut: { set: 'larch' } } } } },
        ],
      },
    },
    ask: {
      kind: 'http',
      with: { url: 'https://store.example/${ input.owner }/loads', json: { hut: 'larch' } },
    },
    find: { kind: 'table', with: { do: 'find', table: 'huts', where: { name: '${ input.hut }' } } },
    first: { kind: 'shape', with: { value: { beds: '${ steps.find.rows[0].beds }', name: '${ input.nmae }' } } },
    take: { kind: 'table', with: { do: 'remove', table: 'stock', where: { item: '${ input.name }' } } },
    way: { kind: 'choose', with: { when: { heavy: '${ input.kg > 200 }' } } },
    after: { kind: 'shape', after: 'way.heavy', with: { value: 1 } },
    count: { kind: 'script', with: { code: 'const a = 1;\nreturn b;' } },
    post: { kind: 'mail', with: { to: ['ines@huts.example'] } },
  },
};

let made = 0;
function span(work: Span['work'], name: string, parentId: string | null, more: Partial<Span> = {}): Span {
  const [spanId, start] = [`s${++made}`, made];
  return {
    traceId: 't',
    spanId,
    parentId,
    run: 'r1',
    work,
    name,
    start,
    end: start + 5,
    status: 'ok',
    attributes: {},
    ...more,
  };
}
const failed = (error: PindroError): Partial<Span> => ({ status: 'error', error: error.toRecord() });
const wrong = (code: ErrorCode, details: { [name: string]: Json } = {}, at?: string) =>
  new PindroError(
    code,
    { ...(details as Record<string, string>), why: 'because', limit: 3, what: 'It' },
    { details, ...(at && { at }) },
  );

/** A run that failed in one step, or below it. */
function inStep(
  step: string,
  error: PindroError,
  more: { span?: Partial<Span>; step?: Partial<Span>; work?: Span['work'] } = {},
): Trace {
  const root = span('run', 'send-load', null, failed(error));
  const own = span('step', step, root.spanId, { ...failed(error), ...more.step });
  const leaf = span(more.work ?? 'tool', 'execute_tool', own.spanId, { ...failed(error), ...more.span });
  return traceOf([root, own, leaf], 'failed');
}
/** A call of an agent's tool that failed, in a run that is done. */
function byAgent(error: PindroError, more: { span?: Partial<Span>; agent?: Partial<Span> } = {}): Trace {
  const root = span('run', 'send-load', null);
  const step = span('step', 'desk', root.spanId);
  const agent = span('agent', 'invoke_agent', step.spanId, more.agent);
  return traceOf(
    [root, step, agent, span('tool', 'execute_tool', agent.spanId, { ...failed(error), ...more.span })],
    'done',
  );
}
const traceOf = (
  spans: Span[],
  state: 'done' | 'failed' | 'interrupted',
  more: Partial<Trace['runs'][number]> = {},
): Trace => ({
  runs: [{ id: 'r1', flow: 'send-load', parentRun: null, state, error: null, document: DOCUMENT, ...more }],
  spans,
});
const step = (name: string, kind: string, more: Partial<Span> = {}) => {
  const root = span('run', 'send-load', null, { input: { hut: 'Larch', name: 'x', kg: 4 } });
  return traceOf(
    [root, span('step', name, root.spanId, { ...more, attributes: { [attribute.kind]: kind, ...more.attributes } })],
    'done',
  );
};
const agent = (attributes: Span['attributes'], receipt?: Partial<Receipt>) => {
  const root = span('run', 'send-load', null);
  const own = span('step', 'desk', root.spanId);
  const whole = receipt && { done: [], looked: 0, open: [], end: 'answer' as const, contradicts: null, ...receipt };
  return traceOf(
    [root, own, span('agent', 'invoke_agent', own.spanId, { attributes })],
    'done',
    whole ? { receipt: whole } : {},
  );
};
const key = (name: string, more: object = {}) => ({
  name,
  kind: 'bearer',
  header: null,
  odd: '',
  cleans: false,
  sends: { header: 'authorization', schemes: ['bearer'] },
  stored: true,
  ...more,
});
const IN_AUTHORIZATION = { kind: 'header', header: 'Authorization' };
/** A call that its server refused, with the header Authorization as it is recorded. */
const refusedWith = (authorization: string) => {
  const exchange = { at: 1, request: { headers: { authorization }, body: '{}' }, answer: { status: 401, body: '' } };
  return inStep('lift', wrong('server_wants_key', { server: 'lift', wants: 'a bearer key' }), {
    span: { attributes: { [attribute.exchanges]: [exchange] } },
  });
};
const lift = (more: object = {}) => {
  const facts = new Facts();
  const tools = [
    {
      name: 'schedule_load',
      inputSchema: {
        type: 'object',
        required: ['weight_kg', 'hut', 'night'],
        properties: { night: { type: 'string', description: 'of arrival' } },
      },
    },
  ];
  facts.put({ of: 'server', name: 'lift' }, {
    transport: 'http',
    credential: key('lift-key'),
    tools,
    ...more,
  } as never);
  return facts;
};
const house = (more: object = {}) => {
  const facts = new Facts();
  facts.put(
    { of: 'model', name: 'house', names: true },
    {
      model: 'house-l',
      credential: null,
      couldSend: [],
      offers: ['house-1', 'house-2'],
      ...more,
    },
  );
  return facts;
};
const near = () => {
  const facts = new Facts();
  facts.put(
    { of: 'near', table: 'huts', where: { name: 'Larch' } },
    { rows: [{ column: 'name', searched: 'Larch', has: 'larch' }] },
  );
  return facts;
};
const offered = (parent: string) =>
  span('model', 'chat house', parent, {
    attributes: { [attribute.offered]: [{ name: 'schedule_load', description: 'Send a load up to a hut. Be quick.' }] },
  });
const reported = (details: object) =>
  wrong('tool_reported_error', { server: 'lift', tool: 'schedule_load', ...details });

interface Case {
  code: string;
  trace: Trace;
  facts?: Facts;
  title: RegExp;
  why?: RegExp;
  place?: Finding['place'];
  severity?: Finding['severity'];
  cure?: string;
  /** What of the cure is looked at. */
  changes?: object;
}
const at = (pointer: string): Finding['place'] => ({ flow: 'send-load', at: pointer });
const CASES: Case[] = [
  {
    code: 'not_authorised',
    trace: inStep('lift', wrong('server_wants_key', { server: 'lift', wants: 'a bearer key' })),
    facts: lift({ credential: key('lift-key', { odd: 'it is in quotation marks', cleans: true }) }),
    cure: 'clean',
    title: /"lift-key": it is in quotation marks/,
    place: { credential: 'lift-key' },
  },
  {
    code: 'not_authorised',
    trace: inStep('lift', wrong('server_wants_key', { server: 'lift', wants: '“Send it in the header X-Lift-Key.”' })),
    facts: lift({ credential: key('lift-key') }),
    title: /is sent as "Authorization: Bearer", and the other side expects it in the header X-Lift-Key/,
    cure: 'form',
  },
  {
    code: 'not_authorised',
    trace: refusedWith('Bearer •••'),
    facts: lift({ credential: key('lift-key', { ...IN_AUTHORIZATION }) }),
    title: /rejected the credential "lift-key"$/,
  },
  {
    code: 'not_authorised',
    trace: refusedWith('•••'),
    facts: lift({ credential: key('lift-key', { ...IN_AUTHORIZATION }) }),
    title: /"lift-key": the credential has changed since this request$/,
  },
  {
    code: 'not_authorised',
    trace: refusedWith('•••'),
    facts: lift({
      credential: key('lift-key', { ...IN_AUTHORIZATION, sends: { header: 'authorization', schemes: [] } }),
    }),
    title:
      /"lift-key": it is sent in the header Authorization, and the other side expects it as "Authorization: Bearer"$/,
    cure: 'form',
  },
  {
    code: 'not_authorised',
    trace: refusedWith('Token •••'),
    facts: lift({
      credential: key('lift-key', {
        ...{ ...IN_AUTHORIZATION, stored: false },
        sends: { header: 'authorization', schemes: ['token'] },
      }),
    }),
    title: /expects it as "Authorization: Bearer"$/,
  },
  {
    code: 'not_authorised',
    trace: inStep('ask', wrong('http_status', { address: 'https://store.example', status: 401, body: '{}' })),
    title: /requires a credential, and none/,
  },
  {
    code: 'not_authorised',
    trace: inStep('ask', wrong('http_status', { address: 'https://store.example', status: 401, body: '{}' })),
    facts: (() => {
      const facts = new Facts();
      facts.put({ of: 'address', url: 'https://store.example' }, { couldSend: ['store-key'] });
      return facts;
    })(),
    title: /requires a credential, and none/,
    cure: 'change',
    changes: { at: '/steps/ask/with/credential', from: null, to: 'store-key' },
  },
  {
    code: 'not_authorised',
    trace: inStep('lift', wrong('server_wants_key', { server: 'lift' })),
    facts: lift({ credential: null, couldSend: ['lift-key'] }),
    title: /requires a credential, and none/,
    cure: 'credential',
    changes: { of: 'server', name: 'lift', to: 'lift-key' },
  },
  {
    code: 'not_authorised',
    trace: inStep('lift', wrong('server_wants_key', { server: 'lift' })),
    facts: lift({ credential: null, couldSend: ['lift-key', 'older-key'] }),
    title: /requires a credential, and none/,
  },
  {
    code: 'caller_credential',
    trace: inStep('lift', wrong('caller_without_credential', { server: 'lift', caller: 'ines' })),
    title: /own credential/,
    place: { server: 'lift' },
  },
  {
    code: 'credential_unusable',
    trace: inStep('ask', wrong('secret_missing', { credential: 'store-key' })),
    title: /has no value/,
    place: { credential: 'store-key' },
  },
  {
    code: 'not_a_tool_server',
    trace: inStep(
      'lift',
      wrong('server_not_mcp', { server: 'lift', status: 405, body: '<html><h1>Sign in</h1></html>' }),
    ),
    facts: (() => {
      const facts = new Facts();
      const now = { transport: 'http', speaksNow: 'sse', credential: null, couldSend: [], tools: [] };
      facts.put({ of: 'server', name: 'lift', way: true }, now);
      return facts;
    })(),
    title: /not a tool server: Sign in/,
    cure: 'transport',
  },
  {
    code: 'name_unresolved',
    trace: inStep(
      'lift',
      wrong('server_unreachable', { server: 'lift', network: 'ENOTFOUND', address: 'https://litf.example/mcp' }),
    ),
    title: /"litf.example" cannot be resolved/,
  },
  {
    code: 'program_failed',
    trace: inStep('lift', wrong('program_ended', { server: 'trails' })),
    title: /program/,
    place: { server: 'trails' },
  },
  {
    code: 'server_unreachable',
    trace: inStep('lift', wrong('server_lost', { server: 'lift', tool: 'x' })),
    title: /disconnected during the call/,
  },
  {
    code: 'server_unreachable',
    trace: agent({ [attribute.unreachable]: [{ server: 'lift', message: 'gone', hint: 'Start it.' }] }),
    title: /could not be reached/,
    severity: 'warning',
  },
  {
    code: 'tool_held',
    trace: inStep('lift', wrong('tool_held', { server: 'lift', tool: 'schedule_load' })),
    title: /is on hold/,
  },
  {
    code: 'tool_held',
    trace: agent({ [attribute.heldTools]: [{ server: 'lift', tool: 'schedule_load', why: 'it is new' }] }),
    title: /had to continue without schedule_load/,
  },
  {
    code: 'tool_gone',
    trace: inStep('lift', wrong('tool_unknown', { server: 'lift', tool: 'shedule_load' })),
    facts: lift(),
    title: /it has "schedule_load"/,
    place: at('/steps/lift/with/tool'),
    cure: 'change',
  },
  {
    code: 'tool_not_offered',
    trace: inStep('lift', wrong('tool_unknown', { endpoint: 'huts', tool: 'book', offered: ['books'] })),
    title: /endpoint "huts" does not have; it has "books"/,
    place: { endpoint: 'huts' },
  },
  {
    code: 'tool_not_offered',
    trace: inStep('lift', wrong('tool_unknown', { endpoint: 'huts', tool: 'book', offered: [] })),
    facts: (() => {
      const facts = new Facts();
      facts.put({ of: 'endpoint', name: 'huts' }, { tools: ['book'] });
      return facts;
    })(),
    title: /may not use "book" of endpoint "huts"/,
  },
  {
    code: 'tool_invented',
    trace: byAgent(wrong('tool_unknown', { tool: 'book_load' }), {
      agent: { attributes: { [attribute.tools]: ['book_loads', 'weather'] } },
    }),
    title: /probably meant "book_loads"/,
    severity: 'warning',
  },
  {
    code: 'argument_renamed',
    trace: inStep(
      'lift',
      wrong('arguments_refused', { tool: 'schedule_load', arguments: { weight_kg: 4, hutt: 'x' } }),
      {
        span: { attributes: { [attribute.server]: 'lift' } },
      },
    ),
    facts: lift({
      tools: [{ name: 'schedule_load', inputSchema: { type: 'object', properties: { weight_kg: {}, hut: {} } } }],
    }),
    title: /schedule_load of lift has no argument "hutt"; it has "hut"/,
    place: at('/steps/lift/with/arguments'),
  },
  {
    code: 'tools_alike',
    trace: (() => {
      const root = span('run', 'send-load', null);
      const own = span('step', 'desk', root.spanId);
      const agent = span('agent', 'invoke_agent', own.spanId);
      const call = (tool: string, more: Partial<Span> = {}) =>
        span('tool', 'execute_tool', agent.spanId, {
          ...{ input: { hut: 'larch', kg: 4 }, attributes: { [attribute.tool]: tool } },
          ...more,
        });
      return traceOf(
        [
          ...[root, own, agent, offered(agent.spanId)],
          call('list_loads', {
            ...failed(wrong('arguments_refused')),
            attributes: {
              [attribute.tool]: 'list_loads',
              [attribute.server]: 'lift',
              [attribute.ownTool]: 'list_loads',
            },
          }),
          call('schedule_load'),
        ],
        'done',
      );
    })(),
    title: /called "list_loads" where "schedule_load" was meant/,
    severity: 'warning',
    place: at('/steps/desk/with/toolbox'),
    cure: 'change',
    changes: {
      at: '/steps/desk/with/toolbox/0/tools/list_loads',
      from: null,
      to: { when: 'Not for “Send a load up to a hut”: call schedule_load instead.' },
    },
  },
  {
    code: 'result_cut',
    trace: (() => {
      const root = span('run', 'send-load', null);
      const own = span('step', 'desk', root.spanId);
      const agent = span('agent', 'invoke_agent', own.spanId);
      const call = (tool: string, more: Partial<Span> = {}) =>
        span('tool', 'execute_tool', agent.spanId, { attributes: { [attribute.tool]: tool }, ...more });
      const long = { cut: true, characters: 200_000, beginning: '[' };
      return traceOf(
        [
          ...[root, own, agent, call('list_loads', { output: long }), call('huts', { output: long })],
          call('read_on', { input: { tool: 'huts', from: 65_536 } }),
        ],
        'done',
      );
    })(),
    title: /received 64 KiB of the 195 KiB that "list_loads" returned/,
    severity: 'warning',
    place: at('/steps/desk/with/toolbox'),
  },
  {
    code: 'rule_not_kept',
    trace: byAgent(wrong('tool_too_early', { tool: 'schedule_load', needs: ['lift_status'] }), {
      span: { attributes: { [attribute.server]: 'lift' } },
    }),
    title: /before lift_status, which must come first/,
    severity: 'warning',
  },
  {
    code: 'answer_withheld',
    trace: traceOf([span('run', 'send-load', null)], 'done', {
      withheldFrom: { endpoint: 'huts', tool: 'book' },
      result: { load: 7 },
    }),
    facts: (() => {
      const facts = new Facts();
      const returns = { book: { type: 'object', properties: { load: { type: 'string' } } } };
      facts.put({ of: 'endpoint', name: 'huts' }, { tools: ['book'], returns });
      return facts;
    })(),
    title: /did not receive the result of book: "load" must be/,
    place: { endpoint: 'huts' },
    severity: 'doubt',
  },
  {
    code: 'argument_now_required',
    trace: inStep('lift', reported({ arguments: { weight_kg: 4, hut: 'larch' }, why: 'bad' })),
    facts: lift(),
    title: /now requires "night"/,
    place: at('/steps/lift/with/arguments'),
  },
  {
    code: 'rule_supplies_it',
    trace: byAgent(reported({ arguments: { hut: 'larch', kg: 1 }, blamed: ['hut'] }), {
      span: { input: { kg: 1 }, attributes: { [attribute.sent]: { hut: 'larch', kg: 1 } } },
    }),
    title: /The argument rule for "hut"/,
    place: at('/steps/desk/with/toolbox/0/tools/schedule_load/arguments/hut'),
  },
  {
    code: 'fields_refused',
    trace: inStep(
      'ask',
      wrong('http_status', {
        address: 'https://store.example',
        status: 422,
        body: JSON.stringify({ errors: { hut: ['is closed'] } }),
      }),
      { step: { input: { json: { hut: 'larch' } } } },
    ),
    title: /rejected hut = "larch": is closed/,
    place: at('/steps/ask/with/json/hut'),
  },
  {
    code: 'fields_refused',
    trace: inStep(
      'lift',
      reported({
        arguments: { weight_kg: 400 },
        data: { detail: [{ loc: ['body', 'weight_kg'], msg: 'at most 350' }] },
      }),
    ),
    title: /rejected weight_kg = 400: at most 350/,
    place: at('/steps/lift/with/arguments/weight_kg'),
  },
  {
    code: 'tool_error',
    trace: inStep('lift', reported({ arguments: { weight_kg: 400 }, blamed: ['weight_kg'] })),
    title: /refused weight_kg = 400/,
    place: at('/steps/lift/with/arguments/weight_kg'),
  },
  {
    code: 'arguments_refused',
    trace: byAgent(wrong('arguments_refused', { tool: 'schedule_load' }), { span: { input: '{"hut": ' } }),
    title: /cannot be parsed/,
  },
  {
    code: 'address_has_nothing',
    trace: inStep(
      'ask',
      wrong('http_status', { address: 'https://store.example/tobias/loads', status: 404, body: '' }),
    ),
    title: /tobias.* was not found/,
    place: at('/steps/ask/with/url'),
  },
  {
    code: 'address_refused',
    trace: inStep(
      'ask',
      wrong('http_status', { address: 'https://store.example', status: 502, body: '<h1>Bad gateway</h1>' }),
    ),
    title: /Bad gateway/,
  },
  {
    code: 'model_refused',
    trace: inStep('desk', wrong('model_refused', { model: 'house', kind: 'model', status: 404 })),
    facts: house(),
    title: /it has "house-1"/,
    place: { model: 'house' },
    cure: 'model',
  },
  {
    code: 'model_refused',
    trace: inStep('desk', wrong('model_refused', { model: 'house', kind: 'context', status: 400 }), {
      work: 'model',
      span: {
        input: [
          { role: 'user', text: 'hi' },
          { role: 'tool', name: 'large', text: 'snow '.repeat(500) },
        ],
      },
    }),
    title: /received more than its context window/,
    why: /The largest part was the result of large: about [\d,]+ of [\d,]+ tokens/,
    place: at('/steps/desk/with/toolbox'),
  },
  {
    code: 'model_unreachable',
    trace: inStep('desk', wrong('model_garbage', { model: 'house' })),
    title: /cannot be parsed/,
  },
  {
    code: 'answer_cut_off',
    trace: agent({}, { end: 'length', contradicts: 'The answer was truncated.' }),
    title: /truncated/,
    severity: 'doubt',
  },
  {
    code: 'agent_in_circles',
    trace: inStep('desk', wrong('agent_in_circles', { tool: 'weather' }), { work: 'agent' }),
    title: /stopped/,
    place: at('/steps/desk/with/instructions'),
  },
  {
    code: 'limit_reached',
    trace: inStep('desk', wrong('round_limit', { rounds: '2 rounds' }), { work: 'agent' }),
    title: /rounds/,
    place: at('/steps/desk/with/limits/rounds'),
    cure: 'change',
  },
  {
    code: 'tools_not_offered',
    trace: agent({ [attribute.tools]: [], [attribute.idlePatterns]: ['shedule_*'] }),
    title: /no tools/,
    severity: 'doubt',
    place: at('/steps/desk/with/toolbox'),
  },
  {
    code: 'not_as_claimed',
    trace: agent(
      {},
      {
        contradicts: 'The answer says that the work is done, but schedule load failed.',
        open: [{ tool: 'schedule_load', state: 'failed', arguments: {}, says: 'at most 350 kg', run: null }],
      },
    ),
    title: /The answer says that the work is done/,
    severity: 'doubt',
    place: at('/steps/desk/with/instructions'),
    cure: 'change',
    changes: {
      at: '/steps/desk/with/instructions',
      from: 'Help.',
      to: 'Help.\n\nClaim only what one of your calls has done, and state plainly what failed, was rejected or is still waiting.',
    },
  },
  {
    code: 'no_value',
    trace: inStep('first', wrong('no_value', { expression: 'input.nmae' }, '/steps/first/with/value/name')),
    title: /has no value/,
    place: at('/steps/first/with/value/name'),
  },
  { code: 'wrong_type', trace: inStep('first', wrong('config_refused')), title: /after evaluation/ },
  {
    code: 'no_branch_taken',
    trace: step('way', 'choose', { attributes: { [attribute.branch]: 'otherwise' } }),
    title: /No branch of "way"/,
    severity: 'doubt',
    place: at('/steps/way/with/when'),
  },
  {
    code: 'nothing_matched',
    trace: step('take', 'table', {
      input: { do: 'remove', table: 'stock', where: { item: 'nonsense' } },
      output: { count: 0 },
    }),
    title: /no row of "stock" matched/,
    severity: 'doubt',
    place: at('/steps/take/with/where'),
  },
  {
    code: 'search_nearly_found',
    trace: step('find', 'table', {
      input: { do: 'find', table: 'huts', where: { name: 'Larch' } },
      output: { rows: [], count: 0 },
    }),
    facts: near(),
    title: /the table has "larch"/,
    severity: 'doubt',
    place: at('/steps/find/with/where/name'),
  },
  {
    code: 'result_unfit',
    trace: byAgent(wrong('tool_too_early', { tool: 'x' }), {
      span: {
        ...{
          status: 'ok' as const,
          attributes: { [attribute.unfit]: 'hut is missing', [attribute.server]: 'lift', [attribute.ownTool]: 'find' },
        },
        error: undefined,
      },
    }),
    title: /hut is missing/,
    severity: 'warning',
  },
  {
    code: 'context_full',
    trace: (() => {
      const one = agent({});
      one.spans.push(
        span('model', 'chat', one.spans[2]!.spanId, { attributes: { [attribute.leftOut]: ['the result of weather'] } }),
      );
      return one;
    })(),
    title: /not receive/,
    severity: 'warning',
  },
  {
    code: 'mail_refused',
    trace: step('post', 'mail', { output: { refused: ['nobody@huts.example'] } }),
    title: /rejected for nobody@huts.example/,
    severity: 'doubt',
    place: at('/steps/post/with/to'),
  },
  {
    code: 'not_approved',
    trace: inStep(
      'lift',
      wrong('not_approved', { decision: 'refused', outcome: 'refused', by: 'ines', note: 'too heavy' }),
    ),
    title: /“It” was refused/,
  },
  {
    code: 'flow_not_published',
    trace: inStep('lift', wrong('flow_not_published', { flow: 'weather' })),
    title: /no published revision/,
    cure: 'publish',
  },
  {
    code: 'calls_itself',
    trace: inStep('lift', wrong('flow_too_deep', { chain: ['a', 'b', 'c', 'b'] })),
    title: /in a loop: b → c → b/,
  },
  {
    code: 'script_failed',
    trace: inStep('count', wrong('script_failed', { line: 2 }), { work: 'step' }),
    title: /script failed/,
  },
  {
    code: 'table_refused',
    trace: inStep('find', wrong('table_refused', { table: 'huts' })),
    title: /rejected the change/,
  },
  { code: 'disk_full', trace: inStep('lift', wrong('storage_failed')), title: /could not be written/ },
  {
    code: 'call_in_doubt',
    trace: byAgent(wrong('call_in_doubt', { tool: 'schedule_load' })),
    title: /outcome of .* is unknown/,
  },
  { code: 'interrupted', trace: traceOf([], 'interrupted'), title: /service stopped/ },
  {
    code: 'stopped_on_purpose',
    trace: inStep('lift', new PindroError('stopped_as_failed', { message: 'Too heavy' })),
    title: /Too heavy/,
  },
  { code: 'timed_out', trace: inStep('lift', wrong('timed_out')), title: /took longer than/ },
  { code: 'step_failed', trace: inStep('lift', wrong('internal')), title: /Step "lift"/ },
];

describe('the rules of the diagnosis', () => {
  for (const { code, trace, facts, title, why, place, severity, cure, changes } of CASES) {
    it(`find ${code}: ${String(title)}`, () => {
      const found = diagnose(trace, facts);
      const one = found.find((finding) => finding.code === code);
      expect(one, JSON.stringify(found.map((finding) => [finding.code, finding.title]))).to.not.equal(undefined);
      expect(one!.title).to.match(title);
      if (why) expect(one!.why).to.match(why);
      for (const part of [one!.why, one!.fix]) expect(part).to.be.a('string').and.not.equal('');
      if (place) expect(one!.place).to.deep.equal(place);
      if (one!.place && 'flow' in one!.place && one!.place.flow === 'send-load')
        expect(deepest(DOCUMENT, one!.place.at), 'the place is there').to.equal(one!.place.at);
      if (severity) expect(one!.severity).to.equal(severity);
      expect(one!.cure?.do).to.equal(cure);
      if (changes) expect(one!.cure).to.deep.include(changes);
      expect(one!.fingerprint).to.match(/^[0-9a-f]{16}$/);
    });
  }

  it('are all tried here, and each says what it finds and what is to be done', () => {
    const covered = new Set(CASES.map(({ code }) => code));
    expect(DIAGNOSIS_RULES.map(({ code }) => code).filter((code) => !covered.has(code))).to.deep.equal([]);
    for (const { code, about, todo } of DIAGNOSIS_RULES)
      for (const words of [about, todo]) expect(words, code).to.match(/^[A-Z].*\.$/);
  });

  it('tell a misspelt field from a branch that was not taken and from a search without rows', () => {
    const root = span('run', 'send-load', null, { status: 'error', input: { name: 'larch' } });
    const because = (expression: string, steps: Span[], pointer = '/steps/first/with/value/beds') => {
      const error = wrong('no_value', { expression }, pointer);
      const own = span('step', 'first', root.spanId, failed(error));
      return diagnose(traceOf([root, ...steps, own], 'failed'))[0]!;
    };
    expect(
      because('steps.find.rows[0].beds', [span('step', 'find', root.spanId, { output: { rows: [] } })]).title,
    ).to.contain('found no row');
    expect(
      because('steps.find.rows[0].beds', [span('step', 'find', root.spanId, { status: 'skipped' })]).title,
    ).to.contain('its branch was not taken');
    const places = [span('step', 'find', root.spanId, { output: { rows: [{ name: 'larch', bunks: 16 }] } })];
    for (const [wrongly, rightly] of [
      ['steps.find.rows[0].bunsk - input.party', 'steps.find.rows[0].bunks - input.party'],
      ['input.name + steps.find.rows[0].nmae', 'input.name + steps.find.rows[0].name'],
      ['size(input.nmae)', 'size(input.name)'],
    ])
      expect(because(wrongly!, places).fix).to.equal(`Write "${rightly}".`);
    const misspelt = because('input.nmae', [], '/steps/first/with/value/name');
    expect(misspelt.fix).to.equal('Write "input.name".');
    expect(misspelt.cure).to.deep.equal({
      do: 'change',
      flow: 'send-load',
      at: '/steps/first/with/value/name',
      from: '${ input.nmae }',
      to: '${ input.name }',
    });
  });

  it('read field errors in the forms in which services send them', () => {
    const says = 'is closed';
    const forms: Json[] = [
      { errors: { hut: [says] } },
      { errors: [{ field: 'hut', message: says }] },
      { errors: [{ pointer: '/body/hut', detail: says }] },
      { detail: [{ loc: ['body', 'hut'], msg: says, type: 'value_error' }] },
      { 'invalid-params': [{ name: 'hut', reason: says }] },
      { violations: [{ path: 'load.hut', description: says }] },
      { error: { errors: { hut: says } } },
      { error: { details: [{ param: 'hut', message: says }] } },
    ];
    for (const body of forms) {
      const details = { address: 'https://store.example', status: 422, body: JSON.stringify(body) };
      const [finding] = diagnose(
        inStep('ask', wrong('http_status', details), { step: { input: { json: { hut: 'larch' } } } }),
      );
      expect(finding!.code, JSON.stringify(body)).to.equal('fields_refused');
      expect(finding!.title).to.contain(`rejected hut = "larch": ${says}`);
    }
    for (const body of ['<html>', '{}', '{"errors":[1,null]}', '{"errors":"no"}', '[]']) {
      const details = { address: 'https://store.example', status: 422, body };
      expect(diagnose(inStep('ask', wrong('http_status', details)))[0]!.code, body).to.equal('address_refused');
    }
  });

  it('put a search that a capital letter spoilt above what had no value because of it', () => {
    const error = wrong('no_value', { expression: 'steps.find.rows[0].beds' }, '/steps/first/with/value/beds');
    const root = span('run', 'send-load', null, failed(error));
    const find = span('step', 'find', root.spanId, {
      attributes: { [attribute.kind]: 'table' },
      input: { do: 'find', table: 'huts', where: { name: 'Larch' } },
      output: { rows: [], count: 0 },
    });
    const first = span('step', 'first', root.spanId, failed(error));
    const found = diagnose(traceOf([root, find, first], 'failed'), near());
    expect(found.map(({ code }) => code)).to.deep.equal(['search_nearly_found']);
    expect(found[0]).to.include({ severity: 'failure' });
    expect(found[0]!.follows.map(({ code }) => code)).to.deep.equal(['no_value']);
    expect(diagnose(traceOf([root, find, first], 'failed')).map(({ code }) => code)).to.deep.equal(['no_value']);
  });

  it('blame no call for a limit that failed once and was mended', () => {
    const limit = wrong('round_limit');
    const root = span('run', 'send-load', null, failed(limit));
    const own = span('step', 'desk', root.spanId, failed(limit));
    const inside = span('agent', 'invoke_agent desk', own.spanId, failed(limit));
    const call = (more: Partial<Span> = {}) => span('tool', 'execute_tool schedule_load', inside.spanId, more);
    const refused = failed(reported({ arguments: { weight_kg: 400 }, blamed: ['weight_kg'] }));
    const codes = (...calls: Span[]) =>
      diagnose(traceOf([root, own, inside, ...calls], 'failed')).map(({ code, severity }) => `${code} ${severity}`);
    expect(codes(call(refused), call(), call())).to.deep.equal(['limit_reached failure', 'tool_error warning']);
    expect(codes(call(), call(refused))).to.deep.equal(['tool_error failure']);
    const full = span('model', 'chat', inside.spanId, { attributes: { [attribute.leftOut]: ['a result'] } });
    expect(codes(full, call())).to.deep.equal(['limit_reached failure', 'context_full warning']);
  });

  it('point at a step inside of a loop where it is written', () => {
    const document: Json = {
      ...{ format: 'pindro/flow@1', name: 'send-load' },
      steps: { all: { kind: 'each', with: { steps: { find: { kind: 'table', with: { where: { name: 'x' } } } } } } },
    };
    const root = span('run', 'send-load', null);
    const all = span('step', 'all', root.spanId);
    const item = span('item', '0', all.spanId);
    const find = span('step', 'find', item.spanId, {
      attributes: { [attribute.kind]: 'table', [attribute.path]: 'all/0/find' },
      input: { do: 'find', table: 'huts', where: { name: 'Larch' } },
      output: { rows: [], count: 0 },
    });
    const [finding] = diagnose(traceOf([root, all, item, find], 'done', { document }), near());
    expect(finding!.place).to.deep.equal(at('/steps/all/with/steps/find/with/where/name'));
  });

  it('name the part that used the time, down to the tool inside', () => {
    const late = wrong('timed_out', { step: 'desk', limit: '5s' });
    const root = span('run', 'send-load', null, { ...failed(late), start: 0, end: 5000 });
    const own = span('step', 'desk', root.spanId, { ...failed(late), start: 0, end: 5000 });
    const inside = span('agent', 'invoke_agent desk', own.spanId, { start: 10, end: 4990 });
    const tool = span('tool', 'execute_tool weather', inside.spanId, { start: 600, end: 4900 });
    const [finding] = diagnose(traceOf([root, own, inside, tool], 'failed'));
    expect(finding!.title).to.contain('the tool "weather" took 4.3 s of it');
  });

  it('put the call that kept failing above the limit that it led to, once, with how often', () => {
    const root = span('run', 'send-load', null, failed(wrong('agent_in_circles')));
    const own = span('step', 'desk', root.spanId, failed(wrong('agent_in_circles')));
    const inside = span('agent', 'invoke_agent desk', own.spanId, failed(wrong('agent_in_circles')));
    const calls = [1, 2, 3].map(() =>
      span(
        'tool',
        'execute_tool schedule_load',
        inside.spanId,
        failed(reported({ arguments: { weight_kg: 400 }, blamed: ['weight_kg'] })),
      ),
    );
    const found = diagnose(traceOf([root, own, inside, ...calls], 'failed'));
    expect(found).to.have.length(1);
    expect(found[0]).to.deep.include({ code: 'tool_error', severity: 'failure', times: 3 });
    expect(found[0]!.follows.map(({ code }) => code)).to.deep.equal(['agent_in_circles']);
  });

  it('go on where one of them throws, and say so', () => {
    const bad = {
      ...DIAGNOSIS_RULES[0]!,
      code: 'bad',
      look: () => {
        throw new Error('no');
      },
    };
    const found = diagnose(inStep('lift', wrong('timed_out')), new Facts(), [bad, ...DIAGNOSIS_RULES]);
    expect(found.map(({ code }) => code)).to.deep.equal(['timed_out', 'not_looked_at']);
    expect(found[1]!.title).to.contain('"bad"');
  });

  it('bear spans whose parent never comes, circles of parents, clocks that jump, and old records', () => {
    const error = wrong('timed_out');
    const lost = span('tool', 'x', 'nobody', { ...failed(error), start: 900, end: 5 });
    const [one, other] = [span('step', 'a', null, failed(error)), span('step', 'b', null, failed(error))];
    Object.assign(one, { parentId: other.spanId });
    Object.assign(other, { parentId: one.spanId });
    const found = diagnose({
      runs: [{ id: 'other', flow: 'x', parentRun: null, state: 'failed', error: null }],
      spans: [lost, one, other],
    });
    expect(found.map(({ code }) => code)).to.include('timed_out');
  });

  it('ask for nothing where nothing failed, and have the same fingerprint for the same trouble with other values', () => {
    expect(needsOf(step('first', 'shape', { output: { value: 1 } }))).to.deep.equal([]);
    const print = (weight: number) =>
      diagnose(inStep('lift', reported({ arguments: { weight_kg: weight }, blamed: ['weight_kg'] })))[0]!.fingerprint;
    expect(print(400)).to.equal(print(500));
    const other = diagnose(inStep('lift', reported({ arguments: { hut: 'x' }, blamed: ['hut'] })))[0]!.fingerprint;
    expect(other).to.not.equal(print(400));
  });

  it('look at five thousand spans without being slow, also where each of them failed', () => {
    const root = span('run', 'send-load', null, failed(wrong('timed_out')));
    const spans = [
      root,
      ...Array.from({ length: 5000 }, (_, index) =>
        span('step', `s${index}`, root.spanId, failed(wrong('step_failed', { step: `s${index}` }))),
      ),
    ];
    const begun = process.cpuUsage();
    expect(diagnose(traceOf(spans, 'failed'))).to.have.length(50);
    expect(process.cpuUsage(begun).user / 1000, 'milliseconds').to.be.below(2000);
  });
});
