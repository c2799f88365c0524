import { mayUse, type RunDetail } from '@pindro/contract';
import {
  asJson,
  boundPayload,
  compareRunTraces,
  DURATION,
  type Finding,
  type FlowDocument,
  type Json,
  linksOf,
  milliseconds,
  PindroError,
  Replay,
  type RunHead,
  type RunRequest,
  type Span,
  type Stage,
} from '@pindro/core';
import { cardsOf } from '../flows/cards.js';
import type { FlowStore } from '../flows/store.js';
import type { FormerNames } from '../objects/former-names.js';
import type { Api } from '../platform/api.js';
import { type RunRecord, type RunStore, summarise } from '../record/reading/run-store.js';
import type { RunTexts } from '../record/reading/run-texts.js';
import { flowOf } from './as-flow.js';
import { differently } from './changed-document.js';
import { conversationsIn } from './conversations.js';
import { fromRecord } from './retry.js';
import type { Runner } from './runner.js';
import { unmask } from './unmask.js';

type Again = Pick<RunRequest, 'document' | 'revision' | 'stage'>;
interface Parts {
  store: RunStore;
  texts: RunTexts;
  runner: Runner;
  flows: FlowStore;
  former: FormerNames;
  diagnoser: { of(tree: readonly RunRecord[], spans: Span[]): Promise<Finding[]> };
  /** Arguments that the rules of a tool server supply. */
  ruled(server: string): string[];
}

export function runRoutes(api: Api, { store, texts, runner, flows, former, diagnoser, ruled }: Parts): void {
  /** What is done when a run is done again. What was made for the occasion has no draft, and is done as it was. */
  const again = (id: string, head: RunHead, on?: 'draft' | 'live' | 'ran'): Again => {
    const which = on ?? (flows.drafts.find(head.flow) ? 'draft' : 'ran');
    if (which !== 'ran') return { ...flows.loadNow(head.flow, which), stage: which };
    const document = store.documentOf(id);
    if (!document)
      throw new PindroError('not_found', {
        what: 'document of run',
        name: id,
        suggestion: 'The document of this old run was not recorded. Rerun it with the draft.',
      });
    return { document, revision: head.revision, stage: head.stage };
  };

  api.on('listRuns', async ({ query }) => {
    // Runs keep the name that their flow had; whoever asks for it by any of them means all.
    const { flow, since, until, longer, text, ...rest } = query;
    const words = text ? texts.find(text) : null;
    const named = flow === undefined ? {} : { flows: former.namesOf('flow', flow) };
    const { items, next } = await store.list({
      ...{ ...rest, ...named },
      since: momentOf(since, 'since'),
      until: momentOf(until, 'until'),
      longer: longer === undefined ? undefined : milliseconds(longer),
      ...(words && { among: words.runs }),
    });
    const titles = await store.titles(items);
    const failed = store.withFailures(items.map(({ head }) => head.id));
    const summaries = items.map((run) => ({
      ...summarise(run, titles.get(run.head.id)),
      failures: failed.has(run.head.id),
    }));
    return { items: summaries, next, bounded: words?.more ?? false };
  });

  api.on('listConversations', async (call) => {
    const named = former.namesOf('flow', call.param('name'));
    const { items } = await store.list({ flows: named, roots: true, limit: 200 });
    // A removed flow may still have conversations; an unknown one is an error.
    if (items.length === 0) flows.drafts.get(call.param('name'));
    return { items: conversationsIn(items) };
  });

  api.on('runValue', (call) => {
    const id = call.param('id');
    const { head, result } = store.get(id);
    const { of, path } = call.query;
    if (of !== 'step') return { value: of === 'input' ? head.input : result };
    const settled = store.settled(id).findLast((one) => one.path === path);
    if (!settled) throw new PindroError('not_found', { what: 'step of the run', name: path ?? '', suggestion: '' });
    return { value: settled.output };
  });

  api.on('activity', async ({ query }) => {
    const { hours, failing } = await store.activity(query.hours);
    const titles = await store.titles(failing.map(({ run }) => store.get(run)));
    return {
      hours: hours.map(({ from, ...rest }) => ({ from: new Date(from).toISOString(), ...rest })),
      failing: failing.map((one) => ({ ...one, title: titles.get(one.run)?.title ?? null })),
    };
  });

  api.on('getRun', async (call): Promise<RunDetail> => {
    const id = call.param('id');
    const tree = store.tree(id);
    const [run, ...children] = tree;
    const spans = store.spans(tree);
    const findings = await diagnoser.of(tree, spans);
    const { head, result, receipt } = run!;
    const document = store.documentOf(id) ?? documentNow(flows, head.flow, head.stage);
    const first = findings.find((finding) => finding.severity !== 'warning');
    const shown = (value: Json): Json => (call.query.brief ? boundPayload(value) : value);
    return {
      ...summarise(run!, first),
      url: runner.urlOf(id),
      input: shown(head.input),
      result: shown(result),
      receipt: receipt,
      findings,
      spans: spans,
      cards: document ? cardsOf(document) : [],
      links: document ? linksOf(document) : [],
      settled: store.settled(id).map((one) => ({ ...one, output: shown(one.output) })),
      waits: run!.state === 'waiting' ? new Replay(store.entries(id)).waits() : [],
      children: children.map((child) => summarise(child)),
    };
  });

  api.on('runExchanges', (call) => ({ items: store.exchanges(call.param('id'), call.param('span')) }));

  api.on('compareRuns', async (call) => {
    const run = store.get(call.param('id'));
    const other = call.query.other === undefined ? await lastGood(store, run) : store.get(call.query.other);
    const spansOf = (one: RunRecord) => store.spans([one]);
    const rows = compareRunTraces(spansOf(run), spansOf(other));
    const first = rows.find(({ differs }) => differs.length > 0)?.what ?? null;
    return { other: summarise(other), rows: rows, first };
  });

  api.on('retryRun', async (call) => {
    const id = call.param('id');
    const { head } = store.get(id);
    const { on, from, input, live, round, answers, model, set, capture } = call.body;
    // Whoever may only run flows does not get to say what is in them.
    if ((model !== undefined || set) && !mayUse(call.who.role, 'builder'))
      throw new PindroError('role_too_low', { name: call.who.name, role: call.who.role, needed: 'builder' });
    const otherwise = { model, set: set as { [at: string]: Json } | undefined };
    const { changed, ...what } = differently(again(id, head, on), from, otherwise);
    if (from === undefined && (round !== undefined || answers))
      throw new PindroError('request_invalid', { why: '"round" and "answers" require "from" the step of an agent' });
    const agent = { round, live, answers: answers as { [tool: string]: Json } | undefined };
    const record = from === undefined ? null : fromRecord(what.document, new Replay(store.recall(id)), from, agent);
    if (record && record.live.length > 0 && !live)
      throw new PindroError('live_steps', { steps: record.live.join(', ') }, { details: { steps: record.live } });
    const { outcome } = runner.begin({
      ...what,
      ...((record || changed) && {
        trial: { ...(record && { held: record.held, rehearsed: record.rehearsed }), ...(changed && { changed }) },
      }),
      entry: 'again',
      exact: capture,
      // Whoever does it again does not have what the caller brought along.
      caller: { id: head.caller.id, attributes: head.caller.attributes },
      session: sessionOf(head),
      // What was shown masked is what it was.
      input: input === undefined ? store.inputOf(id) : unmask(input as Json, [[head.input, store.inputOf(id)]]),
    });
    return runner.present(await outcome);
  });

  api.on('createFlowFromRun', async (call) => {
    const run = store.get(call.param('id'));
    const { name } = call.body;
    if (flows.drafts.allNames().includes(name)) throw new PindroError('already_there', { what: 'flow', name });
    await flows.drafts.saveDraft(name, asJson(flowOf(run, store, name, ruled)));
    return { name, mistakes: flows.drafts.mistakes(flows.drafts.get(name)).length };
  });

  api.on('cancelRun', (call) => {
    const { head, state } = store.get(call.param('id'));
    if (!runner.cancel(head.id))
      throw new PindroError('request_invalid', { why: `Run ${head.id} is not in progress; it is ${state}` });
    return { done: true };
  });
}

/** Parses a date-time or an age. @throws request_invalid */
function momentOf(text: string | undefined, field: string): number | undefined {
  if (text === undefined) return undefined;
  const moment = DURATION.test(text) ? Date.now() - milliseconds(text) : Date.parse(text);
  if (!Number.isNaN(moment)) return moment;
  const why = `"${field}" must be a date-time, such as 2027-02-13T09:00, or an age, such as 2h`;
  throw new PindroError('request_invalid', { why }, { at: `/${field}` });
}

/** The last successful run of the same flow before a run. @throws not_found */
async function lastGood(store: RunStore, { head }: RunRecord): Promise<RunRecord> {
  const filter = { flow: head.flow, state: 'done' as const, cursor: head.id, limit: 1 };
  const [good] = (await store.list(filter)).items;
  if (good) return good;
  throw new PindroError('not_found', {
    what: 'successful run before run',
    name: head.id,
    suggestion: 'Name another run to compare with.',
  });
}

/** The session a run was given; one that had none was its own. */
const sessionOf = (head: RunHead) => (head.session === head.id ? null : head.session);

/** For runs from before documents were kept: the flow as it is now, if there still is one. */
function documentNow(flows: FlowStore, name: string, stage: Stage): FlowDocument | null {
  try {
    return flows.loadNow(name, stage).document;
  } catch {
    return null;
  }
}
