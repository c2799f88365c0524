import type { Program, ServerLimits, ServerNetwork, Speaks } from '@pindro/contract';
import { credentialsIn } from '@pindro/contract';
import { DEFAULT_TRANSPORT, type JsonObject, PindroError, PROGRAM_TRANSPORT } from '@pindro/core';
import type { CredentialStore } from '../../credentials/store.js';
import { requireAddress } from '../../platform/names.js';
import { reasonOf } from '../../platform/reason.js';
import { type Authority, NOBODY } from '../../policy/authority.js';
import type { ProgramPolicy } from '../../policy/programs.js';
import { readRules, requireFit, requireNetwork } from '../calling/rules.js';
import {
  bearer,
  type Carried,
  keepCarried,
  namesFor,
  placeOf,
  requireCarried,
  revealCarried,
  revealKept,
} from '../calling/secrets.js';
import type { Revealed } from '../connection/connection.js';
import type { ConnectionPool } from '../connection/pool.js';
import type { ToolRefresh } from '../connection/refresh.js';
import { askServer } from '../find.js';
import type { ServerRepository, ServerRow } from '../repository.js';
import type { ToolWatch } from '../watch.js';
import type { PartByPart } from './attach-stages.js';

/** Progress of attaching a server. */
export interface Attaching {
  name: string;
  url: string;
  /** A program of this machine in place of an address, made with the names of its credentials in the order of `carried`. */
  program?: ((names: readonly string[]) => Program) | undefined;
  credential?: string | null;
  /** A bearer key, kept as a credential. */
  secret?: string | undefined;
  /** Further secrets, each kept as a credential. */
  carried?: Carried[];
  /** Headers that are nobody's secret. */
  headers?: Record<string, string>;
  rules: JsonObject;
  limits?: ServerLimits | undefined;
  network?: ServerNetwork | undefined;
  watch?: ServerRow['watch'] | undefined;
  speaks?: Speaks | undefined;
  /** Saves it without a test: it is retried automatically. */
  skipTest?: boolean | undefined;
  /** Who attaches it: only some may run programs of the machine. */
  by?: Authority | undefined;
}

const UNHEARD = { tools: [], about: '', instructions: '' };
interface Testing {
  name: string;
  url: string;
  program: Program | null;
  parts?: PartByPart | undefined;
}

/** What attaching and changing a server need. */
export interface AttachParts {
  repository: ServerRepository;
  watch: ToolWatch;
  pool: ConnectionPool;
  refresh: ToolRefresh;
  credentials: CredentialStore;
  programs: ProgramPolicy;
  changed(name: string): void;
}

/** Attaches servers. */
export class ServerAttacher {
  constructor(private readonly shared: AttachParts) {}

  /** Attaches a server once it has answered with its tools; nothing is kept otherwise. */
  async attach(
    { credential = null, secret, carried = [], headers = {}, ...given }: Attaching,
    parts?: PartByPart,
  ): Promise<void> {
    this.shared.repository.requireFree(given.name);
    const rules = readRules(given.rules);
    const all: Carried[] = [...(secret === undefined ? [] : [bearer(secret)]), ...carried];
    requireCarried(all);
    const trial = given.program?.(namesFor('trial', all, [])) ?? null;
    const approval = trial && (await this.shared.programs.approve(given.by ?? NOBODY, trial, given.name));
    requireNetwork(given.network);
    const url = trial ? '' : requireAddress(given.url);
    const { network = {} } = given;
    const reveal = (): Revealed => {
      const fresh = revealCarried(all, namesFor('trial', all, []));
      const kept = trial
        ? this.shared.pool.secrets.valuesOf(
            trial,
            { trial: placeOf({ url, program: trial }) },
            Object.keys(fresh.values ?? {}),
          )
        : fresh;
      return revealKept([
        this.shared.pool.secrets.reveal({ headers, credential, also: [], program: null, network }, url),
        kept,
        fresh,
      ]);
    };
    const log = this.shared.pool.touch.log(given.name);
    const { limits = {}, watch = 'flagged' } = given;
    const permit = trial ? () => this.shared.programs.permit(given.name, trial, approval) : undefined;
    const way = { ...this.shared.pool.way, name: given.name, url, permit, limits, reveal, log, parts };
    if (!given.skipTest) await this.#firstParts({ ...way, program: trial });
    const { speaks, ...heard } = given.skipTest
      ? { speaks: trial ? PROGRAM_TRANSPORT : (given.speaks ?? DEFAULT_TRANSPORT), ...UNHEARD }
      : await askServer(way, trial ? PROGRAM_TRANSPORT : given.speaks);
    requireFit(rules, heard.tools);
    const flags = await this.shared.watch.lookAt(given.name, heard.tools);
    parts?.gone.throwIfAborted();
    this.shared.repository.database.driver
      .transaction(() => {
        // Somebody else may have been quicker.
        this.shared.repository.requireFree(given.name);
        const names = namesFor(given.name, all, this.shared.credentials.names());
        const program = given.program?.(names) ?? null;
        const place = placeOf({ url, program });
        keepCarried(this.shared.credentials, given.name, place, all, names);
        for (const one of program ? credentialsIn(program) : []) this.shared.credentials.allow(one, place);
        const along = program ? [] : names;
        const [first = null, ...also] = credential === null ? along : [credential, ...along];
        const allowed = program && approval ? approval.renamed(program).toText() : null;
        const seen = given.skipTest
          ? { ...heard, accepted: null, held: {}, seenAt: null }
          : this.shared.watch.firstSight(given.name, heard, watch, flags);
        this.shared.repository.insert({
          ...{ name: given.name, url, program, allowed, credential: first, also, headers, rules },
          ...{ limits, network, watch, speaks, ...seen },
        });
        if (!given.skipTest) this.shared.watch.noteList(given.name, 'attached', heard.tools);
      })
      .immediate();
    if (!given.skipTest) this.shared.pool.touch.seen(given.name);
    this.shared.changed(given.name);
    // Whoever listens hears of changes at once.
    if (!trial) void this.shared.refresh.refresh(given.name).catch(() => {});
  }

  /** First stage of a test: the name to resolve, or the program to start. */
  async #firstParts({ name, url, program, parts }: Testing): Promise<void> {
    if (!parts) return;
    if (program) {
      parts.begin('program');
      return;
    }
    const hostname = new URL(url).hostname.replace(/^\[|\]$/g, '');
    parts.begin('name');
    const addresses = await this.shared.pool.way.outside.addressesOf(url).catch((error: unknown) => {
      throw error instanceof PindroError
        ? error
        : new PindroError('server_unreachable', { server: name, why: reasonOf(error) }, { cause: error });
    });
    const isNumber = addresses?.length === 1 && addresses[0] === hostname;
    const found = isNumber ? 'nothing to resolve' : `${hostname} is ${addresses?.join(', ')}`;
    parts.done('name', addresses === null ? `the proxy finds ${hostname}` : found);
    parts.begin('reach');
  }
}
