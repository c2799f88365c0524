import { humanDuration } from '@pindro/core';
import type { FlowStore } from '../flows/store.js';
import type { Access } from '../keys/store.js';
import type { Bus } from '../platform/events.js';
import type { Runner } from '../runs/runner.js';
import { VERSION } from '../version.js';
import { callExposed, recordRefusal } from './call.js';
import type { CallQuota } from './call-quota.js';
import type { EndpointLog } from './mcp/endpoint-log.js';
import type { RunWatch } from './mcp/progress.js';
import type { Session, SessionEvent, SessionParts } from './mcp/session.js';
import { scopedTools } from './scope.js';
import { SELF_TEST } from './self-test.js';
import type { EndpointStore } from './store.js';

interface Parts {
  endpoints: EndpointStore;
  flows: FlowStore;
  runner: Runner;
  bus: Bus;
  endpointLog: EndpointLog;
  watch: RunWatch;
  quota: CallQuota;
  zone: string;
}

/** What a client's session needs of the house. @param endpoint its present name */
export function sessionParts(parts: Parts, endpoint: () => string, access: Access): SessionParts {
  const { endpoints, flows, runner, bus, endpointLog, watch, quota, zone } = parts;
  return {
    withheld: (run) => void bus.emit('withheld', run),
    audience: () => (endpoints.isBuiltIn(endpoint()) ? 'builder' : 'caller'),
    version: VERSION,
    document: () => endpoints.get(endpoint()),
    instructions: () => endpoints.instructions(endpoint()),
    tools: () => scopedTools(endpoints.served(endpoint(), access.stage), access),
    call: (request) => callExposed(request, { flows, runner, zone, builtIn: (name) => endpoints.builtIn(name) }),
    refuse: (request, tool, refusal) => void recordRefusal(request, tool, refusal, runner),
    spend: () => quota.spend(access),
    follow: (run, listener) => watch.follow(run, listener),
    urlOf: (run) => runner.urlOf(run),
    outcomeOf: (run) => runner.outcomeOf(run),
    happened: (session, what) => {
      // A client that never said who it is has not been there.
      if (session.client.name === SELF_TEST || (what.kind === 'left' && session.client.name === '')) return;
      const { client } = session;
      endpointLog.note(session.endpoint, () => asNote(client, access, what));
      if (what.kind !== 'called' || bus.listenerCount('line') === 0) return;
      const { tool, state, milliseconds, why } = what;
      const reason = why ? `  ${why}` : '';
      bus.emit(
        'line',
        `${session.endpoint}.${tool}  ${access.caller.id}  ${state} in ${humanDuration(milliseconds)}${reason}`,
      );
    },
  };
}

function asNote(client: Session['client'], access: Access, what: SessionEvent) {
  const who = client.name ? `${client.name} ${client.version}`.trim() : 'A client without a session';
  const base = { kind: what.kind, client: who, run: null };
  switch (what.kind) {
    case 'connected':
      return { ...base, text: `${who} connected with key “${access.name}”` };
    case 'listed':
      return { ...base, text: `${who} listed the tools` };
    case 'left':
      return { ...base, text: `${who} disconnected` };
    case 'called': {
      const outcome = what.why ? `: ${what.why}` : '';
      const text = `${who} called ${what.tool}, ${what.state} in ${humanDuration(what.milliseconds)}${outcome}`;
      return { ...base, text, run: what.run };
    }
  }
}
