import { WORKSHOP, type Workshop } from '@pindro/contract';
import { linksOf, type Mistake } from '@pindro/core';
import type { Sessions } from '../endpoints/mcp/sessions.js';
import { cardsOf } from '../flows/cards.js';
import type { Api } from '../platform/api.js';
import { brief } from './instructions.js';
import { type Proposal, summariseProposal } from './proposals.js';
import { WORKSHOP_TOOLS } from './tools/registry.js';
import type { WorkshopParts } from './tools/tool.js';

export function workshopRoutes(api: Api, parts: WorkshopParts, sessions: Sessions): void {
  const { workshop, proposals, flows, checker, surroundings, address } = parts;
  const isFresh = (flow: string) => !flows.drafts.names().includes(flow);
  const summary = (proposal: Proposal) => summariseProposal(proposal, isFresh(proposal.flow));
  const present = (): Workshop => {
    const open = workshop.open();
    const url = `${address()}/mcp/${WORKSHOP}`;
    return {
      on: workshop.isOn(),
      url,
      flows: flows.drafts.all().map(({ name, document, live }) => ({
        name,
        title: document.title ?? name,
        open: open.includes(name),
        live: live !== null,
      })),
      tools: WORKSHOP_TOOLS.map(({ name, title, about, wider }) => ({ name, title, about, wider })),
      brief: brief({ url, flows: open }),
      proposals: proposals.list().map(summary),
    };
  };

  api.on('getWorkshop', present);
  api.on('updateWorkshop', ({ body }) => {
    workshop.change(body);
    if (!workshop.isOn()) sessions.endOn(WORKSHOP);
    return present();
  });
  api.on('getProposal', async (call) => {
    const proposal = proposals.get(call.param('id'));
    const { document, mistakes } = await checker.check(proposal.text, surroundings());
    const now = isFresh(proposal.flow) ? null : flows.drafts.get(proposal.flow);
    const wanted = document ?? now?.document ?? { format: 'pindro/flow@1' as const, name: proposal.flow, steps: {} };
    const before = now ?? { document: { ...wanted, steps: {} }, text: '' };
    const { changes, steps, lines } = await checker.compare(before, { document: wanted, text: proposal.text });
    const gone = Object.entries(before.document.steps).filter(([step]) => steps[step] === 'removed');
    const both = { steps: { ...Object.fromEntries(gone), ...wanted.steps } };
    return {
      ...summary(proposal),
      text: proposal.text,
      version: now?.updatedAt ?? null,
      comparison: { changes: changes, steps, lines, cards: cardsOf(both), links: linksOf(both) },
      mistakes: mistakes as Mistake[],
    };
  });
  api.on('acceptProposal', async (call) => {
    const { version, note } = call.body;
    const { draft } = await checker.draw(proposals.get(call.param('id')).text, surroundings());
    const { id, flow } = proposals.requireOpen(call.param('id'));
    flows.drafts.keepDraft(flow, draft, version ?? undefined);
    return summary(proposals.settle(id, 'taken', { by: call.who.name, note }));
  });
  api.on('rejectProposal', (call) => {
    const { id } = proposals.requireOpen(call.param('id'));
    return summary(proposals.settle(id, 'declined', { by: call.who.name, note: call.body.note }));
  });
}
