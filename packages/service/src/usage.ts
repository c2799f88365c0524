import { namesAny, type References } from '@pindro/core';
import type { PartName, Parts } from './platform/capability.js';
import type { Thing } from './platform/events.js';

/** Parts that know what they use. */
export const USERS = [
  ...(['endpoints', 'entries', 'servers', 'models'] as const),
  ...(['keys', 'documents', 'sessions', 'flows'] as const),
] as const satisfies readonly PartName[];
type Users = Pick<Parts, (typeof USERS)[number]>;

/** What uses a thing, as words for people: `flow "send-load"`, `endpoint "huts"`. */
export function usesOf(what: Thing, former: Parts['former'], name: string, parts: Users): string[] {
  const { endpoints, entries, servers, models, keys, documents, sessions } = parts;
  const names = what === 'endpoint' ? endpointNames(name, parts) : former.namesOf(what, name);
  const present = names[0]!;
  switch (what) {
    case 'flow':
      return [
        ...endpoints.carrying(present).map((one) => `endpoint "${one}"`),
        ...inFlows('flows', names, parts).filter((user) => user !== `flow "${present}"`),
        ...entries
          .list(present)
          .map(({ kind, path, settings }) =>
            settings.kind === 'schedule' ? `the schedule "${settings.cron}"` : `${kind} "${path}"`,
          ),
      ];
    case 'table':
      return inFlows('tables', names, parts);
    case 'server':
      return [
        ...inFlows('servers', names, parts),
        ...endpoints.passingOn(present).map((one) => `endpoint "${one}"`),
        ...keys.usersOfServer(present),
      ];
    case 'endpoint':
      return [
        ...inFlows('endpoints', names, parts),
        ...keys.opening(present),
        ...listening(sessions.on(present).length),
      ];
    case 'model':
      return [...inFlows('models', names, parts), ...models.leaningOn(present)];
    case 'credential':
      return [
        ...inFlows('credentials', names, parts),
        ...servers.usersOf(present),
        ...models.usersOf(present),
        ...keys.usersOf(present),
        ...documents.usersOf(present),
      ];
    default:
      return [];
  }
}

const endpointNames = (name: string, { endpoints }: Users) => {
  const known = endpoints.find(name);
  return known ? [known.name, ...known.formerly] : [name];
};

const listening = (count: number) => (count === 0 ? [] : [`${count} open session${count === 1 ? '' : 's'}`]);

/** Flows that name it, in their drafts or in what is live. */
function inFlows(sort: keyof References, names: readonly string[], { flows }: Users): string[] {
  const all = new Set(names);
  return flows.all().flatMap((flow) => {
    if (namesAny(flow.document, sort, all)) return [`flow "${flow.name}"`];
    const isLive = flow.live !== null && flows.isChanged(flow);
    return isLive && namesAny(flows.loadNow(flow.name, 'live').document, sort, all)
      ? [`flow "${flow.name}" (live revision)`]
      : [];
  });
}
