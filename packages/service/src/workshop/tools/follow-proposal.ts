import { PindroError } from '@pindro/core';
import { z } from 'zod';
import type { FlowStore } from '../../flows/store.js';
import { defineTool } from './tool.js';

export const followProposal = defineTool({
  name: 'follow_proposal',
  title: 'Follow a proposal',
  about:
    'Returns the state of a proposal made with this key: open, accepted into the draft and live or not, or rejected, and the reply.',
  input: z.strictObject({ proposal: z.string().describe('ID of the proposal, from propose_flow') }),
  reads: true,
  wider: true,
  call: ({ proposal: id }, { proposals, flows }, { access }) => {
    const known = proposals
      .list()
      .find((one) => one.id === id && one.key === access.name && one.caller === access.caller.id);
    if (!known)
      throw new PindroError('not_found', {
        what: 'proposal of this key',
        name: id,
        suggestion: 'A later proposal for the same flow replaces an earlier one.',
      });
    const { flow, state, note, text } = known;
    const live = state === 'taken' && flows.drafts.names().includes(flow) && isLive(flow, text, flows);
    return {
      result: {
        proposal: id,
        flow,
        state,
        ...(note && { note }),
        ...(state === 'taken' && {
          live: live ? 'It is live.' : 'It is in the draft, but not live as proposed.',
        }),
      },
    };
  },
});

function isLive(flow: string, text: string, { drafts, revisions }: FlowStore): boolean {
  return drafts.get(flow).live !== null && revisions.version(flow, 'live').text === text;
}
