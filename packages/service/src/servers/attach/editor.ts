import type { Program, ProgramFingerprint, ProgramPermission } from '@pindro/contract';
import { PindroError, PROGRAM_TRANSPORT } from '@pindro/core';
import { type Authority, NOBODY } from '../../policy/authority.js';
import type { ProgramApproval } from '../../policy/programs.js';
import { requireFit, type ServerChange } from '../calling/rules.js';
import {
  bearer,
  keepCarried,
  namesFor,
  placeOf,
  requireCarried,
  revealCarried,
  revealKept,
} from '../calling/secrets.js';
import type { Revealed } from '../connection/connection.js';
import { askServer, type Said } from '../find.js';
import { credentialsOf, type ServerRow } from '../repository.js';
import type { AttachParts } from './attacher.js';
import { type ChangedRow, changedRow, isElsewhere } from './changed-row.js';

/** Secrets of a program and its network settings. */
const OF_ITSELF = { program: null, network: {} };

/** Changes attached servers: their address, credentials, rules, and permission to run. */
export class ServerEditor {
  constructor(private readonly shared: AttachParts) {}

  /** Changes the address and credentials of a server. Nothing is changed unless it responds, or the test is skipped. */
  async change(given: string, change: ServerChange): Promise<void> {
    const before = this.shared.repository.row(given);
    const { name } = before;
    const { secret, program } = change;
    const approval = program
      ? await this.shared.programs.approve(change.by ?? NOBODY, program, name)
      : this.shared.repository.approval(before);
    if (secret !== undefined) requireCarried([bearer(secret)]);
    const now = changedRow(before, change);
    for (const one of credentialsOf(now)) this.shared.credentials.summary(one, []);
    const moved = isElsewhere(before, now) || secret !== undefined || change.anew === true;
    const heard = moved && !change.skipTest ? await this.#heardThere(before, now, approval, secret) : null;
    requireFit(now.rules, heard?.tools ?? before.tools);
    const flags = heard && (await this.shared.watch.lookAt(name, heard.tools));
    this.shared.repository.database.driver
      .transaction(() => {
        const place = placeOf(now);
        const credential =
          secret === undefined ? now.credential : this.#keepSecret(name, now.credential, secret, place);
        for (const one of credentialsOf({ ...now, credential })) this.shared.credentials.allow(one, place);
        const speaks = now.program ? PROGRAM_TRANSPORT : (heard?.speaks ?? before.speaks);
        this.shared.repository.update(name, {
          ...{ ...now, credential, speaks },
          ...(program && approval && { allowed: approval.toText() }),
        });
        if (heard && flags) {
          const { speaks: _, ...said } = heard;
          this.shared.watch.takeIn(name, said, flags);
        }
        this.shared.changed(name);
      })
      .immediate();
    // Other rules and another watch hold at once, also for what is open.
    if (!moved && JSON.stringify(now.limits) === JSON.stringify(before.limits)) return;
    await this.shared.pool.letGo(name);
    // What just answered is there.
    if (heard) this.shared.pool.touch.seen(name);
    if (!now.program) void this.shared.refresh.refresh(name).catch(() => {});
  }

  /** Tools of a server at its new address, with its new credentials. */
  #heardThere(
    { name, speaks }: ServerRow,
    now: ChangedRow,
    approval: ProgramApproval | null,
    secret?: string,
  ): Promise<Said> {
    const fresh = secret === undefined ? [] : [bearer(secret)];
    const kept = credentialsOf({ ...now, credential: secret === undefined ? now.credential : null, ...OF_ITSELF });
    // Whether it may go there is settled only once the server answers.
    const use = { trial: placeOf(now) };
    const reveal = (): Revealed =>
      revealKept([
        { headers: now.headers, secrets: [] },
        ...kept.map((one) => this.shared.credentials.reveal(one, use)),
        revealCarried(fresh),
        ...(now.program ? [this.shared.pool.secrets.valuesOf(now.program, use)] : []),
        this.shared.pool.secrets.networkOf(now.network, use),
      ]);
    const { url, program, limits } = now;
    const permit = program ? () => this.shared.programs.permit(name, program, approval) : undefined;
    const way = { ...this.shared.pool.way, name, url, permit, limits, reveal, log: this.shared.pool.touch.log(name) };
    if (program) return askServer(way, PROGRAM_TRANSPORT);
    return askServer(way, speaks === PROGRAM_TRANSPORT ? undefined : speaks);
  }

  /** What a person reviews before they allow the program of a server, and what was allowed before. */
  async permission(given: string): Promise<ProgramPermission> {
    const row = this.shared.repository.row(given);
    const program = this.#requireProgram(row);
    const approval = this.shared.repository.approval(row);
    const fingerprint = await this.shared.programs.fingerprint(program);
    const before = approval && { by: approval.by, fingerprint: approval.fingerprint };
    return { allowed: this.shared.repository.isAllowed(row), fingerprint, before };
  }

  #requireProgram({ name, program }: ServerRow): Program {
    if (program) return program;
    throw new PindroError('request_invalid', { why: `Tool server "${name}" is not a program` });
  }

  /**
   * Allows the program of a server to run, as somebody reviewed it.
   * @throws role_too_low, program_forbidden, program_changed where it is no longer what they saw
   */
  async allow(given: string, by: Authority, seen: ProgramFingerprint): Promise<void> {
    const row = this.shared.repository.row(given);
    const { name } = row;
    const approval = await this.shared.programs.approve(by, this.#requireProgram(row), name, seen);
    this.shared.repository.update(name, { allowed: approval.toText() });
    await this.shared.pool.letGo(name);
    this.shared.changed(name);
    await this.shared.refresh.refresh(name);
  }

  /** Renews the secret of the credential a server has, or makes it one. @returns its name */
  #keepSecret(server: string, credential: string | null, secret: string, place: string): string {
    if (credential !== null) {
      this.shared.credentials.change(credential, { secret });
      this.shared.credentials.allow(credential, place);
      return credential;
    }
    const all = [bearer(secret)];
    const names = namesFor(server, all, this.shared.credentials.names());
    keepCarried(this.shared.credentials, server, place, all, names);
    return names[0]!;
  }

  /** The server's address has changed: the next call reconnects. */
  async move(name: string, url: string): Promise<void> {
    await this.change(name, { url, skipTest: true });
  }
}
