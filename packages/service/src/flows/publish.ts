import { PindroError } from '@pindro/core';
import { waysInto } from '../entries/routes.js';
import type { Parts } from '../platform/capability.js';
import { impactOf } from './impact.js';

/**
 * Publishes the draft of a flow.
 * @param force also where that breaks what uses the flow
 * @returns the live revision, and whether it is a new one
 * @throws publish_breaks, flow_invalid
 */
export type PublishFlow = (
  flow: string,
  options?: { note?: string; force?: boolean },
) => Promise<{ revision: number; fresh: boolean }>;

/** Returns the function that publishes flows for every route and fix. */
export const publisherOf =
  (parts: () => Pick<Parts, 'flows' | 'endpoints' | 'entries'>): PublishFlow =>
  async (given, { note = '', force = false } = {}) => {
    const { flows, endpoints, entries } = parts();
    const { name } = flows.drafts.get(given);
    await flows.drafts.look([flows.drafts.get(name)]);
    const broken = force ? [] : impactOf(name, { flows, endpoints, entries: (flow) => waysInto(entries, flow) });
    if (broken.length === 0) return flows.revisions.publish(name, note);
    const mistakes = broken.map(({ what, name: user, why }) => ({ at: '', message: `${what} "${user}": ${why}` }));
    throw new PindroError('publish_breaks', { flow: name }, { mistakes });
  };
