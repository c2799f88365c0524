import type { Outcome, ProblemDetails, RunSummary } from '@pindro/contract/light';
import { humanDuration, isObject, type Json, type JsonObject, type LiveEvent } from '@pindro/core/browser';
import { api, problemOf } from '../../state/api.js';
import { notices } from '../../state/notices.svelte.js';
import { restoreRemoved } from '../../state/removing.svelte.js';
import type { Editor } from '../session/session.svelte.js';

export interface StepState {
  state: string;
  took?: string;
}

/** Entry points through which others start a run. */
const FROM_OUTSIDE = ['tool', 'hook', 'form', 'chat', 'schedule', 'flow', 'agent'];
const ENTRY_WORDS: Record<string, string> = { tool: 'call', hook: 'hook', form: 'form', chat: 'message' };

/** Trying a flow out: its input, how the steps came out, what is held, and going step by step. */
export class Trial {
  input = $state.raw<JsonObject>({});
  samples = $state.raw<{ name: string; input: Json }[]>([]);
  held = $state.raw<string[]>([]);
  states = $state.raw(new Map<string, StepState>());
  busy = $state(false);
  outcome = $state.raw<Outcome | null>(null);
  problem = $state.raw<ProblemDetails | null>(null);
  /** Steps that wait to be let on. */
  waiting = $state.raw<string[]>([]);
  lastRun = $state<string | null>(null);
  lastInput = $state.raw<Json | undefined>(undefined);
  lastOutputs = $state.raw<{ [step: string]: Json }>({});
  /** Whether the next real call, hook or message is waited for, and which run it was. */
  listening = $state(false);
  caught = $state.raw<RunSummary | null>(null);
  #stepping = false;

  constructor(private readonly editor: Editor) {
    void this.load();
  }

  get #name(): string {
    return this.editor.name;
  }

  async load(): Promise<void> {
    try {
      const { held, samples } = await api.flowTrials({ name: this.#name });
      this.held = held.map((one) => one.step);
      this.samples = samples.filter((one) => one.name !== '') as { name: string; input: Json }[];
      const last = samples.find((one) => one.name === '');
      if (last && isObject(last.input as Json) && Object.keys(this.input).length === 0)
        this.input = last.input as JsonObject;
      const { items } = await api.listRuns({ query: { flow: this.#name, limit: 1 } });
      if (items[0]) await this.#read(items[0].id);
      // The last input is the starting point.
      if (isObject(this.lastInput) && Object.keys(this.input).length === 0) this.input = this.lastInput;
    } catch {
      // A flow that has never been tried has nothing to show.
    }
  }

  run = (stepping = false): Promise<void> =>
    this.#follow({ input: this.input, trial: { held: true, stepping } }, stepping);
  runOnly = (step: string): Promise<void> =>
    this.lastRun === null
      ? Promise.resolve()
      : this.#follow({ trial: { only: { step, run: this.lastRun } } }, false, step);

  async #follow(
    body: { input?: Json; trial?: object; session?: string },
    stepping: boolean,
    only?: string,
  ): Promise<void> {
    this.busy = true;
    this.problem = null;
    this.outcome = null;
    this.waiting = [];
    this.#stepping = stepping;
    if (!only) this.states = new Map();
    try {
      await this.editor.save();
      for await (const event of api.runDraftTrial({ name: this.#name, body: { ...body, capture: true } })) {
        if (event.type === 'live') this.#take(event.run, event.live as unknown as LiveEvent);
        if (event.type === 'outcome') {
          this.outcome = event.outcome;
          await this.#read(event.outcome.run, only);
        }
      }
    } catch (error) {
      this.problem = problemOf(error);
    } finally {
      this.busy = false;
      this.waiting = [];
    }
  }

  /** Waits for the next time somebody else calls the flow: the canvas follows it, and its input is kept. */
  listen(on: boolean): void {
    this.listening = on;
    if (on) this.caught = null;
  }

  heard(run: RunSummary): void {
    const isNext = this.listening && run.flow === this.#name && FROM_OUTSIDE.includes(run.entry);
    if (isNext) {
      this.listening = false;
      this.states = new Map();
      this.caught = run;
    }
    if (this.caught?.id !== run.id) return;
    this.caught = run;
    if (isNext) void this.#catch(run.id);
  }

  /** Follows a run until it has ended or waits, and stores its input. */
  async #catch(id: string): Promise<void> {
    for (;;) {
      const detail = await api.getRun({ id, query: { brief: 'true' } }).catch(() => null);
      if (!detail) return;
      const next = new Map<string, StepState>();
      for (const { name } of detail.cards) {
        const settled = detail.settled.find((one) => one.path === name);
        const span = detail.spans.find((one) => one.run === id && one.work === 'step' && one.name === name);
        if (settled) next.set(name, { state: settled.state });
        else if (span) next.set(name, { state: 'running' });
      }
      for (const { path } of detail.waits) next.set(path, { state: 'waiting' });
      this.states = next;
      if (detail.state !== 'running' && detail.state !== 'queued') {
        await this.#read(id);
        if (isObject(detail.input as Json)) this.input = detail.input as JsonObject;
        const at = new Date(detail.startedAt).toLocaleTimeString(undefined, { hour: '2-digit', minute: '2-digit' });
        await this.keep(`${ENTRY_WORDS[detail.entry] ?? detail.entry} at ${at}`);
        return;
      }
      await new Promise((resolve) => setTimeout(resolve, 250));
    }
  }

  #root: string | null = null;
  #take(run: string, live: LiveEvent): void {
    if (live.kind !== 'step' || live.path.includes('/')) return;
    this.#root ??= run;
    if (run !== this.#root && this.states.size > 0 && !(live.path in this.editor.document.steps)) return;
    const next = new Map(this.states);
    next.set(live.path, { state: live.state, ...(live.ms !== undefined && { took: humanDuration(live.ms) }) });
    this.states = next;
    if (this.#stepping && live.state === 'waiting') {
      this.waiting = [...this.waiting, live.path];
      this.lastRun = run;
      void this.#read(run, undefined, true);
    } else if (live.state !== 'waiting') this.waiting = this.waiting.filter((path) => path !== live.path);
  }

  /** Continues paused steps, or ends the run. */
  async goOn(go: boolean): Promise<void> {
    if (this.lastRun === null) return;
    const run = this.lastRun;
    this.waiting = [];
    await api.continueRun({ id: run, body: { go } }).catch((error) => {
      this.problem = problemOf(error);
    });
  }

  /** What the run left behind, for completing fields and showing results. */
  async #read(run: string, only?: string, midway = false): Promise<void> {
    const detail = await api.getRun({ id: run, query: { brief: 'true' } }).catch(() => null);
    if (!detail) return;
    const outputs = Object.fromEntries(
      detail.settled
        .filter((one) => one.state === 'done' && !one.path.includes('/'))
        .map((one) => [one.path, one.output as Json]),
    );
    if (only) {
      // The other steps stand as the run left them that this one borrowed from.
      this.lastOutputs = { ...this.lastOutputs, ...outputs };
      return;
    }
    this.lastRun = run;
    this.lastInput = detail.input as Json;
    this.lastOutputs = outputs;
    this.#root = null;
    if (!midway && this.states.size === 0) return;
    const next = new Map(this.states);
    for (const one of detail.settled)
      if (!one.path.includes('/')) next.set(one.path, { ...next.get(one.path), state: one.state });
    this.states = next;
  }

  hold = async (step: string): Promise<void> => {
    if (this.lastRun === null) return;
    await api.stubStep({ name: this.#name, step, body: { run: this.lastRun } }).then(
      () => void (this.held = [...this.held, step]),
      (error) => void (this.problem = problemOf(error)),
    );
  };
  release = async (step: string): Promise<void> => {
    await api.removeStub({ name: this.#name, step }).then(
      () => void (this.held = this.held.filter((one) => one !== step)),
      (error) => void (this.problem = problemOf(error)),
    );
  };
  async keep(name: string): Promise<void> {
    try {
      await api.saveSample({ name: this.#name, body: { name, input: this.input } });
    } catch (error) {
      this.problem = problemOf(error);
      return;
    }
    this.samples = [...this.samples.filter((one) => one.name !== name), { name, input: this.input }];
  }
  async forget(name: string): Promise<void> {
    try {
      const { removal } = await api.removeSample({ name: this.#name, sample: name });
      this.samples = this.samples.filter((one) => one.name !== name);
      const { label, run } = restoreRemoved(removal.id);
      notices.tell(`Removed saved input ${name}.`, { action: { label, run: () => run().then(() => this.load()) } });
    } catch (error) {
      this.problem = problemOf(error);
    }
  }
}
