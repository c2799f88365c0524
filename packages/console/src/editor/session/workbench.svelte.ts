import type { FlowDetail } from '@pindro/contract/light';
import { untrack } from 'svelte';
import { api } from '../../state/api.js';
import { live } from '../../state/live.svelte.js';
import { preferences } from '../../state/preferences.svelte.js';
import { router } from '../../state/router.svelte.js';
import { Trial } from '../try/trial.svelte.js';
import { Presence } from './presence.svelte.js';
import { Editor } from './session.svelte.js';

export type Side = 'step' | 'flow' | 'try';
export interface Between {
  after: { from: string; branch: string | null };
  before: string;
}

/** One flow in the editor: its draft, its trials, and its panels. */
export class Workbench {
  readonly editor: Editor;
  readonly trial: Trial;
  readonly presence: Presence;
  side = $state<Side>('flow');
  picking = $state(false);
  search = $state('');
  /** A called flow that is looked into without leaving this one. */
  peeking = $state<string | null>(null);
  #between: Between | undefined;
  #turn = 0;

  /** Must be made while a component is set up. */
  constructor(readonly flow: FlowDetail) {
    this.editor = new Editor(flow.name, flow);
    this.trial = new Trial(this.editor);
    this.presence = new Presence(flow.name);
    void this.#gatherFacts();
    $effect(() =>
      live.on((what, name) => {
        if ((what === 'flow' && name === flow.name) || what === 'everything') void this.editor.reload();
        if (['model', 'table', 'server', 'everything'].includes(what)) void this.#gatherFacts();
      }),
    );
    $effect(() => live.onRun((run) => this.trial.heard(run)));
    // A link from a finding points at one step.
    $effect(() => {
      const wanted = router.query.get('step');
      if (!wanted) return;
      untrack(() => {
        if (!(wanted in this.editor.steps)) return;
        this.editor.select([wanted]);
        this.side = 'step';
      });
    });
    $effect(() => {
      // Leaving with unsaved changes asks for confirmation; they are stored in the browser in any case.
      const leaving = (event: BeforeUnloadEvent) => {
        if (this.editor.state !== 'saved') event.preventDefault();
      };
      addEventListener('beforeunload', leaving);
      return () => removeEventListener('beforeunload', leaving);
    });
  }

  get found(): string | null {
    const word = this.search.trim().toLowerCase();
    if (word === '') return null;
    const hit = Object.entries(this.editor.steps).find(([name, step]) =>
      JSON.stringify([name, step]).toLowerCase().includes(word),
    );
    return hit?.[0] ?? null;
  }

  add = (between?: Between): void => {
    this.#between = between;
    this.picking = true;
  };

  pick(kind: string): void {
    const { editor } = this;
    const after = this.#between?.after ?? (editor.step ? { from: editor.step, branch: null } : undefined);
    editor.add(kind, { after, before: this.#between?.before });
    this.side = 'step';
  }

  show(side: Side): void {
    this.side = side;
    if (preferences.panelHidden) preferences.set({ panelHidden: false });
  }

  /** What is obvious for a new step is what there is one of. What cannot be asked now is as it was. */
  async #gatherFacts(): Promise<void> {
    const turn = ++this.#turn;
    const { facts } = this.editor;
    const names = (list: Promise<{ items: { name: string }[] }>, before: string[]) =>
      list.then(
        ({ items }) => items.map((one) => one.name),
        () => before,
      );
    const [models, tables, servers, flows] = await Promise.all([
      names(api.listModels(), facts.models),
      names(api.listTables(), facts.tables),
      names(api.listServers(), facts.servers),
      names(api.listFlows(), facts.flows),
    ]);
    if (turn !== this.#turn) return;
    const last = preferences.recent.find((to) => to.startsWith('/tables/'));
    const lastTable = last ? decodeURIComponent(last.slice('/tables/'.length)) : null;
    this.editor.facts = { models, tables, servers, flows, lastTable };
  }
}
