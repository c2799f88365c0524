import { PindroError } from '@pindro/core';
import { parseArgsStringToArgv as words } from 'string-argv';

/** Names by which something else than what is named could be made to run. */
const MISLEADING =
  /^(?:NODE_OPTIONS|NODE_PATH|PATH|LD_.*|DYLD_.*|PYTHON(?:PATH|HOME|STARTUP)|PERL5(?:LIB|OPT)|RUBY(?:LIB|OPT)|BASH_ENV|ENV|JAVA_TOOL_OPTIONS)$/i;

export interface Runnable {
  command: string;
  /** Its arguments; null stands for one that is a secret. */
  args: readonly (string | null)[];
  /** Names of what it is given in its environment. */
  env: readonly string[];
}

/**
 * Which programs of this machine may be run as tool servers: those that are named, any, or none. A name may hold the
 * first arguments too, as in `npx -y @huts/trail-report`: what runs others would let in all of them.
 */
export class ProgramPolicy {
  readonly #named: string[][];
  readonly #any: boolean;

  /** @param allowed what was named; left out, any where only this machine can reach the service, and none otherwise */
  constructor(allowed: readonly string[] | undefined, isAlone: boolean) {
    this.#any = allowed === undefined ? isAlone : allowed.includes('any');
    this.#named = (allowed ?? []).filter((one) => one !== 'any' && one !== 'none').map((one) => words(one));
  }

  /** @throws program_forbidden */
  require({ command, args, env }: Runnable): void {
    if (this.#any) return;
    if (this.#named.length === 0) throw this.#forbidden(command, 'no programs may be run here');
    const line = [command, ...args];
    const fits = this.#named.some((named) => named.every((word, at) => line[at] === word));
    if (!fits) throw this.#forbidden(command, 'it is not among the programs that may be run');
    const misleading = env.find((name) => MISLEADING.test(name));
    if (misleading) throw this.#forbidden(command, `${misleading} in its environment could make it run something else`);
  }

  #forbidden(command: string, why: string): PindroError {
    return new PindroError('program_forbidden', { command, why }, { details: { command } });
  }
}
