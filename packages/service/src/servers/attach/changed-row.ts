import { requireAddress } from '../../platform/names.js';
import { readRules, requireNetwork, type ServerChange } from '../calling/rules.js';
import type { ServerRow } from '../repository.js';

/** Settings that require a new test when they change. */
export type ServerConnectionSettings = Pick<
  ServerRow,
  'url' | 'program' | 'credential' | 'also' | 'headers' | 'network'
>;
export type ChangedRow = ServerConnectionSettings & Pick<ServerRow, 'rules' | 'limits' | 'watch' | 'off'>;

/** What a server is once a change holds. An address in place of its program makes it no program. @throws request_invalid */
export function changedRow(before: ServerRow, change: ServerChange): ChangedRow {
  const program = change.url === undefined ? (change.program ?? before.program) : null;
  const url = program ? '' : requireAddress(change.url ?? before.url);
  requireNetwork(change.network);
  return {
    ...{ url, program, credential: change.credential === undefined ? before.credential : change.credential },
    also: change.also ?? before.also,
    headers: change.headers ?? before.headers,
    network: change.network ?? before.network,
    rules: change.rules === undefined ? before.rules : readRules(change.rules),
    limits: change.limits ?? before.limits,
    watch: change.watch ?? before.watch,
    off: change.on === undefined ? before.off : !change.on,
  };
}

const wayThere = ({ url, program, credential, also, headers, network }: ServerConnectionSettings): string =>
  JSON.stringify([url, program, credential, also, headers, network]);

/** Whether its address or credentials have changed. */
export const isElsewhere = (before: ServerConnectionSettings, now: ServerConnectionSettings): boolean =>
  wayThere(before) !== wayThere(now);
