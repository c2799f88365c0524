import type { Approval } from '@pindro/contract';
import type { JsonObject } from '@pindro/core';
import type { Api } from '../platform/api.js';
import type { ApprovalRecord, ApprovalStore } from './store.js';

const iso = (moment: number | null) => (moment === null ? null : new Date(moment).toISOString());

function present({ request, askedAt, until, decision, by, note, decidedAt, value }: ApprovalRecord): Approval {
  const {
    run,
    path,
    flow,
    caller,
    title,
    message,
    facts,
    tool = null,
    schema = null,
    by: answers = 'people',
  } = request;
  return {
    ...{ run, path, flow, caller, title, message, decision, by, note },
    facts: facts as Approval['facts'],
    ...{ tool, answers, value: value as Approval['value'], schema: schema as Approval['schema'] },
    askedAt: iso(askedAt)!,
    until: iso(until),
    decidedAt: iso(decidedAt),
  };
}

export function approvalRoutes(api: Api, store: ApprovalStore): void {
  api.on('listApprovals', ({ query }) => ({ items: store.list(query.open).map(present) }));
  api.on('decide', (call) => {
    const { path, decision, note, value } = call.body;
    const by = call.who.caller.id;
    const given = value as JsonObject | undefined;
    return present(store.decide(call.param('run'), path, { decision, by, note, ...(given && { value: given }) }));
  });
}
