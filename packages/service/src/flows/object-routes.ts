import type { FlowSummary } from '@pindro/contract';
import type { FlowDocument } from '@pindro/core';
import { asJson, PindroError } from '@pindro/core';
import type { Api } from '../platform/api.js';
import { fits } from '../platform/search.js';
import type { FlowRecord } from './drafts.js';
import type { FlowStore } from './store.js';

interface Parts {
  store: FlowStore;
  summary(flow: FlowRecord): FlowSummary;
}

/** Flows as things that are changed, renamed, copied and removed, and the labels they carry. */
export function flowObjectRoutes(api: Api, { store, summary }: Parts): void {
  /** Writes a changed document into the draft. */
  const redraft = async (flow: FlowRecord, document: FlowDocument) =>
    (await store.drafts.saveDraft(flow.name, asJson(document), flow.updatedAt)).flow;

  api.on('updateFlow', async (call) => {
    const flow = store.drafts.get(call.param('name'));
    const told = Object.entries(call.body).filter(([, value]) => value !== undefined);
    const changed = await redraft(flow, { ...flow.document, ...Object.fromEntries(told) });
    await store.drafts.look([changed]);
    return summary(changed);
  });

  const labels = () => {
    const all = new Map<string, string[]>();
    for (const { name, document } of store.drafts.all())
      for (const label of document.labels ?? []) all.set(label, [...(all.get(label) ?? []), name]);
    return all;
  };
  const carriers = (label: string) => {
    const flows = labels().get(label);
    if (flows) return flows.map((name) => store.drafts.get(name));
    const suggestion = `There are ${[...labels().keys()].sort().join(', ') || 'none yet'}.`;
    throw new PindroError('not_found', { what: 'label', name: label, suggestion });
  };
  /** Changes the labels of every flow that carries one. */
  const relabel = async (label: string, change: (labels: string[]) => string[]) => {
    const flows = carriers(label);
    for (const flow of flows)
      await redraft(flow, { ...flow.document, labels: [...new Set(change(flow.document.labels ?? []))] });
    return flows.map(({ name }) => name);
  };
  api.on('listLabels', ({ query }) => ({
    items: [...labels()]
      .map(([name, flows]) => ({ name, flows }))
      .filter(({ name }) => fits(query.search, name))
      .sort((a, b) => a.name.localeCompare(b.name)),
  }));
  api.on('renameLabel', async (call) => {
    const label = call.param('name');
    const { to } = call.body;
    const flows = await relabel(label, (all) => all.map((one) => (one === label ? to : one)));
    return { name: to, changed: flows.map((flow) => `flow "${flow}"`) };
  });
  api.on('removeLabel', async (call) => {
    const label = call.param('name');
    return { done: true, flows: await relabel(label, (all) => all.filter((one) => one !== label)) };
  });
}
