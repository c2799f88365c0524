import { PindroError } from '@pindro/core';
import { z } from 'zod';
import { defineTool } from './tool.js';

export const proposeFlow = defineTool({
  name: 'propose_flow',
  title: 'Propose a flow',
  about:
    'Proposes a new flow, or a change under its own name, as a whole YAML document. It is checked immediately, and every mistake is named. Nothing changes before a person has reviewed and published it. A later proposal for the same flow replaces an earlier one.',
  input: z.strictObject({
    document: z.string().max(500_000).describe('The whole flow document, in YAML'),
    why: z.string().min(10).max(2000).describe('What it changes and why, for the reviewer'),
  }),
  reads: false,
  wider: true,
  call: async ({ document: text, why }, { workshop, proposals, flows, checker, surroundings }, { access, client }) => {
    const checked = await checker.check(text, surroundings());
    if (!checked.document)
      throw new PindroError('arguments_refused', {
        tool: 'propose_flow',
        why: checked.mistakes
          .map(({ at, message, hint }) => `${at || 'the document'}: ${message}. ${hint ?? ''}`.trim())
          .join('\n'),
        fix: 'Fix each of them and propose it again; read_format explains the step kinds.',
      });
    const { name } = checked.document;
    const known = flows.drafts.names().includes(name);
    // That a closed flow has this name has to be said, or the proposal could never be taken.
    if (known && !workshop.open().includes(name))
      throw new PindroError('request_invalid', {
        why: `The name "${name}" belongs to a flow that is not open to you; choose another`,
      });
    if (known && flows.drafts.get(name).text === text)
      throw new PindroError('request_invalid', { why: `This is already the draft of "${name}"` });
    const { id } = proposals.add({ flow: name, text, why, key: access.name, caller: access.caller.id, client });
    return {
      result: {
        proposal: id,
        flow: name,
        kind: known ? 'a change' : 'a new flow',
        next: 'A person must accept it. Use follow_proposal to check its state.',
      },
    };
  },
});
