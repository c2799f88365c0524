import { join } from 'node:path';
import type { Role } from '@pindro/contract';
import Sqlite from 'better-sqlite3';

/** What restoring a backup would make valid again although it was taken away since. */
export interface Reactivation {
  /** Access keys that are good in the backup, and revoked, removed or expired now. */
  keys: { id: string; name: string; caller: string; manage: boolean }[];
  /** People who are in the backup, and who were removed or have a lesser role now (null: removed). */
  people: { name: string; role: Role; now: Role | null }[];
  /** Approvals that are valid in the backup, but now revoked. */
  approvals: { id: string; flow: string; tool: string; caller: string }[];
}

type Rows = <T>(sql: string) => T[];
const RANK: readonly Role[] = ['viewer', 'operator', 'builder', 'owner'];
const CONFIG = 'pindro.db';
const RECORD = 'runs.db';

interface KeyRow {
  id: string;
  name: string;
  caller: string;
  manage: number;
  revoked_at: number | null;
  expires_at: number | null;
}
const KEYS = 'SELECT id, name, caller, manage, revoked_at, expires_at FROM keys';
const PEOPLE = 'SELECT name, role FROM people';
const isGood = ({ revoked_at, expires_at }: KeyRow) =>
  revoked_at === null && (expires_at === null || expires_at > Date.now());

interface ApprovalRow {
  id: string;
  flow: string;
  tool: string;
  caller: string;
  until: number;
  revoked_at: number | null;
}
const APPROVALS = 'standing_approvals';
/** A backup of an earlier version has no standing approvals. */
const approvalsIn = (rows: Rows): ApprovalRow[] =>
  rows(`SELECT 1 FROM sqlite_master WHERE name = '${APPROVALS}'`).length > 0
    ? rows<ApprovalRow>(
        `SELECT id, flow, tool, caller, until, revoked_at FROM ${APPROVALS} WHERE until > ${Date.now()}`,
      )
    : [];
/** Those that hold then, and were revoked by now. */
const revokedSince = (then: Rows, now: Rows): ApprovalRow[] => {
  const holds = new Set(
    approvalsIn(now)
      .filter((one) => one.revoked_at === null)
      .map(({ id }) => id),
  );
  return approvalsIn(then).filter((one) => one.revoked_at === null && !holds.has(one.id));
};

/** Compares a backup with what holds now. @param now queries the current configuration @param nowRecord the current record */
export function reactivations(folder: string, now: Rows, nowRecord: Rows): Reactivation {
  const approvals = inFile(folder, RECORD, (then) =>
    revokedSince(then, nowRecord).map(({ id, flow, tool, caller }) => ({ id, flow, tool, caller })),
  );
  return inFile(folder, CONFIG, (then) => {
    const good = new Set(
      now<KeyRow>(KEYS)
        .filter(isGood)
        .map(({ id }) => id),
    );
    const roles = new Map(now<{ name: string; role: Role }>(PEOPLE).map(({ name, role }) => [name, role]));
    return {
      keys: then<KeyRow>(KEYS)
        .filter((key) => isGood(key) && !good.has(key.id))
        .map(({ id, name, caller, manage }) => ({ id, name, caller, manage: manage === 1 })),
      people: then<{ name: string; role: Role }>(PEOPLE)
        .filter(({ name, role }) => RANK.indexOf(roles.get(name) ?? 'viewer') < RANK.indexOf(role) || !roles.has(name))
        .map(({ name, role }) => ({ name, role, now: roles.get(name) ?? null })),
      approvals,
    };
  });
}

/** Tables of people and their sessions: who may sign in stays as it is when a backup is restored. */
const WHO = ['people', 'sign_ins'];

/**
 * Re-applies revocations and removals since the backup to restored files: keys and standing approvals stay revoked,
 * and people and their sessions stay as they are now. The service must not run.
 * @param data the data directory, with the backup in place
 * @param before backup of the state before the restore
 */
export function keepTakenAway(data: string, before: string): void {
  keepRevokedApprovals(data, before);
  const current = inFile(before, CONFIG, (rows) => ({
    keys: rows<KeyRow>(KEYS),
    who: WHO.map((table) => ({ table, rows: rows<Record<string, unknown>>(`SELECT * FROM ${table}`) })),
  }));
  const database = new Sqlite(join(data, CONFIG));
  try {
    const good = new Set(current.keys.filter(isGood).map(({ id }) => id));
    database
      .transaction(() => {
        const revoke = database.prepare('UPDATE keys SET revoked_at = ? WHERE id = ?');
        for (const key of database.prepare(KEYS).all() as KeyRow[])
          if (isGood(key) && !good.has(key.id)) revoke.run(Date.now(), key.id);
        for (const { table, rows } of current.who) {
          database.exec(`DELETE FROM ${table}`);
          // A backup of an earlier version may lack a column; it is added with its default when the service starts.
          const known = (database.prepare(`PRAGMA table_info(${table})`).all() as { name: string }[]).map(
            (one) => one.name,
          );
          for (const row of rows) {
            const columns = Object.keys(row).filter((column) => known.includes(column));
            const marks = columns.map(() => '?').join(', ');
            database
              .prepare(`INSERT INTO ${table} (${columns.join(', ')}) VALUES (${marks})`)
              .run(...columns.map((column) => row[column]));
          }
        }
      })
      .immediate();
  } finally {
    database.close();
  }
}

function keepRevokedApprovals(data: string, before: string): void {
  const revoked = inFile(before, RECORD, (now) => inFile(data, RECORD, (then) => revokedSince(then, now)));
  if (revoked.length === 0) return;
  const database = new Sqlite(join(data, RECORD));
  try {
    const revoke = database.prepare(`UPDATE ${APPROVALS} SET revoked_at = ? WHERE id = ?`);
    database
      .transaction(() => {
        for (const { id } of revoked) revoke.run(Date.now(), id);
      })
      .immediate();
  } finally {
    database.close();
  }
}

function inFile<T>(folder: string, file: string, read: (rows: Rows) => T): T {
  const database = new Sqlite(join(folder, file));
  try {
    return read(<R>(sql: string) => database.prepare(sql).all() as R[]);
  } finally {
    database.close();
  }
}
