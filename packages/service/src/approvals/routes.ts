import type { Approval, StandingApproval as Presented } from '@pindro/contract';
import { type JsonObject, milliseconds, PindroError } from '@pindro/core';
import type { Api } from '../platform/api.js';
import type { StandingApproval } from './standing.js';
import type { ApprovalRecord, ApprovalStore } from './store.js';

const iso = (moment: number | null) => (moment === null ? null : new Date(moment).toISOString());

export function presentApproval(record: ApprovalRecord): Approval {
  const { request, askedAt, until, decision, by, note, decidedAt, value, grant, grantedUntil } = record;
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
  const { grants, fourEyes = false } = request;
  return {
    ...{ run, path, flow, caller, title, message, decision, by, note },
    facts: facts,
    ...{ tool, answers, fourEyes, value: value, schema: schema },
    // What an approver changed is what is sent; everything else as it was asked.
    sent: decision === 'approved' && tool !== null ? (value ?? facts) : null,
    grants: grants
      ? { default: grants.default, allowed: grants.allowed, longest: grants.longest }
      : { default: 'call', allowed: ['call'], longest: 0 },
    grant: grant ?? (decision === 'approved' ? 'call' : null),
    grantedUntil: iso(grantedUntil),
    askedAt: iso(askedAt)!,
    until: iso(until),
    decidedAt: iso(decidedAt),
  };
}

const presentStanding = ({
  at,
  until,
  revokedAt,
  isValid = false,
  ...rest
}: StandingApproval & { isValid?: boolean }): Presented => ({
  ...rest,
  at: iso(at)!,
  until: iso(until)!,
  revokedAt: iso(revokedAt),
  isValid,
});

/** @throws request_invalid */
function durationOf(text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  try {
    return milliseconds(text);
  } catch (error) {
    throw new PindroError('request_invalid', { why: (error as Error).message }, { at: '/holds' });
  }
}

export function approvalRoutes(api: Api, store: ApprovalStore): void {
  api.on('listApprovals', ({ query }) => ({ items: store.list(query.open).map(presentApproval) }));
  api.on('decide', (call) => {
    const { path, decision, note, value, grant, holds } = call.body;
    const given = { decision, note, grant, holds: durationOf(holds), value: value as JsonObject | undefined };
    return presentApproval(store.decide(call.param('run'), path, given, call.who.caller.id));
  });
  api.on('listStandingApprovals', ({ query }) => ({ items: store.standingOnes.list(query.all).map(presentStanding) }));
  api.on('revokeStandingApproval', (call) => presentStanding(store.revoke(call.param('id'), call.who.name)));
}
