import { PindroError } from '@pindro/core';
import { z } from 'zod';
import { defineTool } from './tool.js';

export const followProposal = defineTool({
  name: 'follow_proposal',
  title: 'Follow a proposal',
  about:
    'Says what became of a proposal made with this key: still open, taken into the draft and live or not yet, or declined, and what the person said.',
  input: z.strictObject({ proposal: z.string().describe('Id of the proposal, as propose_flow gave it') }),
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
        suggestion: 'A later one for the same flow takes the place of an earlier one.',
      });
    const { flow, state, note, text } = known;
    const live = state === 'taken' && flows.names().includes(flow) && isLive(flow, text, flows);
    return {
      result: {
        proposal: id,
        flow,
        state,
        ...(note && { note }),
        ...(state === 'taken' && {
          live: live ? 'It is live.' : 'It is in the draft, and not live as it was proposed.',
        }),
      },
    };
  },
});

function isLive(
  flow: string,
  text: string,
  flows: { get(name: string): { live: number | null }; version(name: string, which: string): { text: string } },
) {
  return flows.get(flow).live !== null && flows.version(flow, 'live').text === text;
}
