import { RESOURCE, resourceNamed } from '@pindro/contract';
import { namesAny, outlineOf, type References } from '@pindro/core';
import { hitOf, type ServedResource } from '../platform/resources.js';
import type { FlowStore } from './store.js';

export const servedFlows = (flows: FlowStore): ServedResource => ({
  is: RESOURCE.flow,
  names: () => flows.drafts.names(),
  nameOf: (given) => flows.drafts.get(given).name,
  // Flows call themselves by the new name: that is kept with the drafts that follow.
  callOtherwise: () => {},
  async copy(from, to) {
    const { text, document } = flows.drafts.get(from);
    flows.drafts.requireFresh(to);
    await flows.drafts.copyDraft(text, { ...document, name: to });
  },
  usersOf(what, name, names) {
    const sort = resourceNamed(what)?.inSteps;
    const users = sort ? inFlows(sort, names, flows) : [];
    return what === 'flow' ? users.filter((user) => user !== `flow "${name}"`) : users;
  },
  *hits() {
    for (const { name, document } of flows.drafts.all()) {
      yield hitOf(this.is, {
        name,
        title: document.title ?? name.replaceAll('-', ' '),
        about: document.description ?? '',
      });
      for (const [step, one] of Object.entries(document.steps)) {
        const { title, note } = outlineOf(step, one);
        yield { ...hitOf(this.is, { name: step, title, about: note || one.kind, within: name }), sort: 'step' };
      }
    }
  },
});

/** Flows that name something, in their drafts or in what is live. */
function inFlows(sort: keyof References, names: readonly string[], flows: FlowStore): string[] {
  const all = new Set(names);
  return flows.drafts.all().flatMap((flow) => {
    if (namesAny(flow.document, sort, all)) return [`flow "${flow.name}"`];
    const isLive = flow.live !== null && flows.revisions.isChanged(flow);
    return isLive && namesAny(flows.loadNow(flow.name, 'live').document, sort, all)
      ? [`flow "${flow.name}" (live revision)`]
      : [];
  });
}
