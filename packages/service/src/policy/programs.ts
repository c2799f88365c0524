import { isDeepStrictEqual } from 'node:util';
import { mayUse, type Program, type ProgramFingerprint, programFingerprint, RUNS_PROGRAMS } from '@pindro/contract';
import { PindroError } from '@pindro/core';
import { parseArgsStringToArgv as words } from 'string-argv';
import type { Authority } from './authority.js';
import { executableFiles } from './executable-files.js';

/** Environment variables that make a program load or run other code. */
const MISLEADING =
  /^(?:NODE_OPTIONS|NODE_PATH|PATH|LD_.*|DYLD_.*|PYTHON(?:PATH|HOME|STARTUP)|PERL5(?:LIB|OPT)|RUBY(?:LIB|OPT)|BASH_ENV|ENV|JAVA_TOOL_OPTIONS)$/i;

let approve: (fingerprint: ProgramFingerprint, by: string | null) => ProgramApproval;
/** A person's permission to run one program, bound to what they saw. Only {@link ProgramPolicy} makes one. */
export class ProgramApproval {
  readonly #fingerprint: ProgramFingerprint;
  readonly #by: string | null;
  private constructor(fingerprint: ProgramFingerprint, by: string | null) {
    this.#fingerprint = fingerprint;
    this.#by = by;
  }
  static {
    approve = (fingerprint, by) => new ProgramApproval(fingerprint, by);
  }
  get fingerprint(): ProgramFingerprint {
    return this.#fingerprint;
  }
  get by(): string | null {
    return this.#by;
  }
  /** The same permission where its credentials have other names now. */
  renamed(program: Program): ProgramApproval {
    return new ProgramApproval({ ...this.#fingerprint, ...program }, this.#by);
  }
  /** The form in which it is stored. */
  toText(): string {
    return JSON.stringify({ by: this.#by, ...this.#fingerprint });
  }
}

let permit: (program: Program) => ProgramPermit;
/** The capability to start one program. Only {@link ProgramPolicy} makes one, and starting a process requires one. */
export class ProgramPermit {
  readonly #program: Program;
  private constructor(program: Program) {
    this.#program = program;
  }
  static {
    permit = (program) => new ProgramPermit(program);
  }
  get program(): Program {
    return this.#program;
  }
}

/** A program reduced to what the policy of the machine looks at. */
export interface Runnable {
  command: string;
  /** Its arguments; null replaces a secret. */
  args: readonly (string | null)[];
  /** Names of its environment variables. */
  env: readonly string[];
}
export const runnable = ({ command, args, env }: Program): Runnable => ({
  command,
  args: args.map((one) => (typeof one === 'string' ? one : null)),
  env: Object.keys(env),
});

/**
 * Decides which programs of this machine run as tool servers: the programs named in the settings, any, or none. A name
 * may include the first arguments, as in `npx -y @huts/trail-report`. Each program also needs the approval of a person.
 */
export class ProgramPolicy {
  readonly #named: string[][];
  readonly #any: boolean;

  /** @param allowed the names; if omitted, any program where only this machine reaches the service, else none */
  constructor(allowed: readonly string[] | undefined, isAlone: boolean) {
    this.#any = allowed === undefined ? isAlone : allowed.includes('any');
    this.#named = (allowed ?? []).filter((one) => one !== 'any' && one !== 'none').map((one) => words(one));
  }

  /** @throws program_forbidden */
  require({ command, args, env }: Runnable): void {
    if (this.#any) return;
    if (this.#named.length === 0) throw forbidden(command, 'programs are not allowed here');
    const line = [command, ...args];
    const fits = this.#named.some((named) => named.every((word, at) => line[at] === word));
    if (!fits) throw forbidden(command, 'it is not on the list of allowed programs');
    const misleading = env.find((name) => MISLEADING.test(name));
    if (misleading) throw forbidden(command, `${misleading} in its environment could make it run something else`);
  }

  /** What a person reviews before they allow a program. */
  async fingerprint(program: Program): Promise<ProgramFingerprint> {
    return { ...program, files: await executableFiles(program) };
  }

  /**
   * Approves a program on somebody's authority.
   * @param seen what they reviewed; the current state if they name the program themselves
   * @throws role_too_low, program_forbidden, program_changed where it is no longer what they saw
   */
  async approve(who: Authority, program: Program, server: string, seen?: ProgramFingerprint): Promise<ProgramApproval> {
    if (!mayUse(who.role, RUNS_PROGRAMS))
      throw new PindroError('role_too_low', { name: who.name, role: who.role, needed: RUNS_PROGRAMS });
    this.require(runnable(program));
    const now = await this.fingerprint(program);
    if (seen) requireSame(server, seen, now);
    return approve(now, who.name);
  }

  /** Reads an approval as it is stored. Text of an earlier version covers the program, and no files yet. */
  stored(text: string | null, program: Program | null): ProgramApproval | null {
    if (text === null || program === null) return null;
    if (text === JSON.stringify(program)) return approve({ ...program, files: [] }, null);
    try {
      const { by, ...rest } = JSON.parse(text) as { by?: unknown };
      const parsed = programFingerprint.safeParse(rest);
      return parsed.success ? approve(parsed.data, typeof by === 'string' ? by : null) : null;
    } catch {
      return null;
    }
  }

  /** Whether an approval covers a program, apart from the content of its files. */
  covers(approval: ProgramApproval | null, program: Program): boolean {
    if (!approval) return false;
    const { files: _, ...approved } = approval.fingerprint;
    return isDeepStrictEqual(plain(approved), plain(program));
  }

  /**
   * Permits one start of a program.
   * @throws program_not_allowed without an approval of just this program, program_changed where a file has another
   *   content than the approver saw, program_forbidden
   */
  async permit(server: string, program: Program, approval: ProgramApproval | null): Promise<ProgramPermit> {
    if (!approval || !this.covers(approval, program)) throw new PindroError('program_not_allowed', { server });
    this.require(runnable(program));
    // An approval of an earlier version names no files.
    const isBound = approval.by !== null || approval.fingerprint.files.length > 0;
    if (isBound) requireSame(server, approval.fingerprint, await this.fingerprint(program));
    return permit(program);
  }
}

/** @throws program_changed with the first difference */
function requireSame(server: string, seen: ProgramFingerprint, now: ProgramFingerprint): void {
  const { files: before, ...approved } = seen;
  const { files: after, ...program } = now;
  const fail = (what: string) => new PindroError('program_changed', { server, what }, { details: { server } });
  if (!isDeepStrictEqual(plain(approved), plain(program)))
    throw fail('the command line, environment or working directory');
  const changed = [...before, ...after].find(({ path }) => digest(before, path) !== digest(after, path));
  if (changed) throw fail(changed.path);
}
const digest = (files: ProgramFingerprint['files'], path: string) => files.find((one) => one.path === path)?.sha256;
/** Without keys that are undefined, which no stored text has. */
const plain = (program: Program): unknown => JSON.parse(JSON.stringify(program));

function forbidden(command: string, why: string): PindroError {
  return new PindroError('program_forbidden', { command, why }, { details: { command } });
}
