import type { RunDetail } from '@pindro/contract';
import { type FlowDocument, type Json, PindroError, type Stage } from '@pindro/core';
import type { Vault } from '../credentials/vault.js';
import { cardsOf, linksOf } from '../flows/cards.js';
import type { FlowStore } from '../flows/store.js';
import type { Api } from '../platform/api.js';
import type { Runner } from './runner.js';
import type { RunStore } from './store.js';

interface Parts {
  store: RunStore;
  runner: Runner;
  flows: FlowStore;
  vault: Vault;
}

export function runRoutes(api: Api, { store, runner, flows, vault }: Parts): void {
  api.on('listRuns', ({ query }) => {
    const { items, next } = store.list(query);
    return {
      items: items.map((run) => ({
        ...run,
        title:
          run.title &&
          (store.findings(store.tree(run.id), store.spans(store.tree(run.id).map((row) => row.id)))[0]?.title ??
            run.title),
      })),
      next,
    };
  });

  api.on('getRun', (call): RunDetail => {
    const id = call.param('id');
    const tree = store.tree(id);
    const row = tree[0]!;
    const spans = store.spans(tree.map((one) => one.id));
    const findings = store.findings(tree, spans);
    const document = documentOf(flows, row.flow, row.stage as Stage);
    return {
      ...store.summary(row),
      title: findings.find((finding) => finding.severity === 'failure')?.title ?? store.summary(row).title,
      url: runner.urlOf(id),
      input: JSON.parse(row.input) as Json,
      result: row.result === null ? null : (JSON.parse(row.result) as Json),
      findings,
      spans: spans as RunDetail['spans'],
      cards: document ? cardsOf(document) : [],
      links: document ? linksOf(document) : [],
      settled: store.settled(id) as RunDetail['settled'],
      children: tree.slice(1).map((child) => store.summary(child)),
    };
  });

  api.on('runAgain', async (call) => {
    const row = store.row(call.param('id'));
    const { document, revision } = flows.loadNow(row.flow, 'draft');
    const input =
      row.sealed === null ? (JSON.parse(row.input) as Json) : (JSON.parse(vault.unseal(row.sealed, 'run')) as Json);
    const { outcome } = runner.begin({
      document,
      revision,
      stage: 'draft',
      entry: 'again',
      caller: { id: row.caller, attributes: store.attributes(row) },
      session: row.session === row.id ? null : row.session,
      input,
    });
    return runner.present(await outcome);
  });

  api.on('cancelRun', (call) => {
    const row = store.row(call.param('id'));
    if (!runner.cancel(row.id))
      throw new PindroError('request_invalid', { why: `Run ${row.id} is not under way; it is ${row.state}` });
    return { done: true };
  });
}

/** The flow a run was of, if there still is one. */
function documentOf(flows: FlowStore, name: string, stage: Stage): FlowDocument | null {
  try {
    return flows.loadNow(name, stage).document;
  } catch {
    return null;
  }
}
