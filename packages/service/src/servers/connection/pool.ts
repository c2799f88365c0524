import type { ServerLogLine, ServerSummary } from '@pindro/contract';
import { asPindroError, letOthers } from '@pindro/core';
import type { CredentialStore } from '../../credentials/store.js';
import { bestEffort } from '../../platform/database/best-effort.js';
import type { Outside } from '../../platform/reach/outside.js';
import type { ProgramPolicy } from '../../policy/programs.js';
import { CallerConnections } from '../calling/callers.js';
import { Touch } from '../calling/circuit-breaker.js';
import { KeptAnswers } from '../calling/result-cache.js';
import type { ServerRepository, ServerRow } from '../repository.js';
import { ServerConnection } from './connection.js';
import { ServerSecrets } from './server-secrets.js';

/** Reads tool lists, as the pool needs it. */
interface Reader {
  refresh(name: string): Promise<unknown>;
  /** The tools changed, maybe while they were being read. */
  toolsChanged(name: string): void;
  /** What is being read of a server says nothing of where it is now. */
  forget(name: string): void;
}

interface Options {
  repository: ServerRepository;
  credentials: CredentialStore;
  outside: Outside;
  programs: ProgramPolicy;
  /** Milliseconds between two refreshes of a server. */
  refreshEvery: number;
  /** Reads tool lists. The pool asks for it once something is connected. */
  refresh(): Reader;
  changed(name: string): void;
}

/** Connections to servers: opened on demand, refreshed periodically, and retried automatically. */
export class ConnectionPool {
  readonly touch: Touch;
  readonly secrets: ServerSecrets;
  /** Connections with credentials of callers. */
  readonly own = new CallerConnections();
  readonly kept = new KeptAnswers();
  readonly #repository: ServerRepository;
  #closed = false;

  constructor(private readonly options: Options) {
    this.#repository = options.repository;
    this.secrets = new ServerSecrets(options.credentials);
    this.touch = new Touch({
      connect: (name) => this.#connect(name),
      isProgram: (name) => this.#repository.row(name).program !== null,
      refresh: (name) => this.#refresh(name),
      changed: options.changed,
    });
  }

  #refresh(name: string): Promise<unknown> {
    return this.options.refresh().refresh(name);
  }

  /** Connects to every server without waiting, and refreshes each periodically. Programs start on demand. */
  start(): void {
    void this.#refreshEach((name) => {
      const { program, tools, off } = this.#repository.row(name);
      return !off && (!program || tools.length === 0);
    });
    this.#asking = setInterval(() => this.#retryRequest(), this.options.refreshEvery).unref();
  }

  #asking: NodeJS.Timeout | null = null;
  /** Servers that say when their tools change are followed at once; others are only found out by asking. */
  #retryRequest(): void {
    void this.#refreshEach((name) => {
      const { program, off } = this.#repository.row(name);
      if (off) return false;
      const isIdle = program !== null && !this.touch.isOpen(name);
      // What is in trouble is tried again anyway.
      return !isIdle && !this.touch.trouble(name);
    });
  }

  /** Starts refreshes one by one, without waiting for any: sixty connections opened in one turn block the event loop. */
  async #refreshEach(wanted: (name: string) => boolean): Promise<void> {
    for (const name of this.#repository.names()) {
      if (this.#closed) return;
      try {
        if (wanted(name)) void this.#refresh(name).catch(() => {});
      } catch {
        // It was removed.
      }
      await letOthers();
    }
  }

  async close(): Promise<void> {
    if (this.#closed) return;
    this.#closed = true;
    if (this.#asking) clearInterval(this.#asking);
    for (const [name, seenAt] of this.touch.allAnswered()) bestEffort(() => this.#repository.update(name, { seenAt }));
    await Promise.all([this.touch.close(), this.own.close()]);
  }

  state({ name, program, off }: ServerRow): ServerSummary['state'] {
    if (off) return 'off';
    const trouble = this.touch.trouble(name);
    if (trouble) return trouble.code === 'server_wants_key' ? 'refused' : 'unreachable';
    if (program && !this.touch.isOpen(name)) return 'idle';
    return this.touch.answered(name) === undefined ? 'trying' : 'ready';
  }

  /** Recent activity of a server. @param after only lines after this number */
  log(given: string, after = 0): ServerLogLine[] {
    return this.touch.log(this.#repository.row(given).name).lines(after);
  }

  /** It was moved or removed: active calls finish. */
  async letGo(name: string): Promise<void> {
    this.#repository.forget(name);
    this.kept.forget(name);
    // What is being read there says nothing of where it is now.
    this.options.refresh().forget(name);
    this.touch.letGo(name);
    await this.own.endOf(name);
  }

  /** Reconnects with the present credential. */
  async credentialChanged(credential: string): Promise<void> {
    for (const name of this.#repository.using(credential)) {
      // Failures of the previous one do not apply.
      this.touch.letGo(name);
      this.kept.forget(name);
      // What was asked with the one before says nothing of this one.
      this.options.refresh().forget(name);
      if (!this.#repository.row(name).program) void this.#refresh(name).catch(() => {});
    }
    await this.own.endWith(credential);
  }

  /** Servers that use the previous secret, and until when, by the monotonic clock. */
  readonly older = new Map<string, number>();
  isOlder = (name: string) => (this.older.get(name) ?? 0) > performance.now();

  #connect(name: string): ServerConnection {
    const { url, speaks, program, limits } = this.#repository.row(name);
    const { programs } = this.options;
    const again = () => void this.#refresh(name).catch(() => {});
    return new ServerConnection({
      ...this.way,
      ...{ name, url, speaks, limits, log: this.touch.log(name) },
      ...(program && {
        permit: () => programs.permit(name, program, this.#repository.approval(this.#repository.row(name))),
      }),
      reveal: () => this.secrets.reveal(this.#repository.row(name), url, this.isOlder(name)),
      onToolsChanged: () => this.options.refresh().toolsChanged(name),
      onRest: () => this.options.changed(name),
      // It may only have ended its stream; whether it is still there is asked. A program is started when it is needed.
      onLost: (error) => {
        if (!program) return again();
        this.touch.troubled(name, asPindroError(error));
      },
    });
  }

  /** What every connection needs. */
  get way() {
    return { outside: this.options.outside, below: this.options.credentials.masker };
  }
}
