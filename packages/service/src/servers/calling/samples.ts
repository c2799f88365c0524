import type { ServerSample } from '@pindro/contract';
import { type JsonObject, PindroError } from '@pindro/core';
import { and, asc, eq } from 'drizzle-orm';
import type { Database } from '../../platform/database/open.js';
import type { Bus } from '../../platform/events.js';
import { serverSamples } from '../tables.js';

/** Maximum number per server. */
const MOST = 200;

/** Calls by hand that somebody kept, to do them again. */
export class ServerSamples {
  constructor(
    private readonly database: Database,
    private readonly bus: Bus,
  ) {}

  of(server: string): ServerSample[] {
    return this.database
      .select()
      .from(serverSamples)
      .where(eq(serverSamples.server, server))
      .orderBy(asc(serverSamples.id))
      .all()
      .map(({ id, tool, name, arguments: args, at }) => ({
        ...{ id, tool, name, arguments: args },
        at: new Date(at).toISOString(),
      }));
  }

  /** Keeps the arguments of a call, in place of those that had the name before. */
  keep(server: string, tool: string, name: string, args: JsonObject): void {
    const own = this.of(server);
    const before = own.find((one) => one.tool === tool && one.name === name);
    if (!before && own.length >= MOST)
      throw new PindroError('request_invalid', { why: `There are ${MOST} saved calls, the limit; delete some first` });
    const values = { server, tool, name, arguments: args, at: Date.now() };
    if (before) this.database.update(serverSamples).set(values).where(eq(serverSamples.id, before.id)).run();
    else this.database.insert(serverSamples).values(values).run();
    this.bus.changed('server', server);
  }

  forget(server: string, id: number): void {
    const own = and(eq(serverSamples.server, server), eq(serverSamples.id, id));
    const done = this.database.delete(serverSamples).where(own).returning({ id: serverSamples.id }).all();
    if (done.length === 0) throw new PindroError('not_found', { what: 'sample', name: String(id), suggestion: '' });
    this.bus.changed('server', server);
  }

  rename(from: string, to: string): void {
    this.database.update(serverSamples).set({ server: to }).where(eq(serverSamples.server, from)).run();
  }
}
