import { PindroError } from '@pindro/core';
import { z } from 'zod';
import { defineTool } from './tool.js';

export const proposeFlow = defineTool({
  name: 'propose_flow',
  title: 'Propose a flow',
  about:
    'Proposes a new flow, or a changed one under its own name, as a whole YAML document. It is checked at once and every mistake is named. Nothing changes before a person has looked at it and published it. A later proposal for the same flow takes the place of an earlier one.',
  input: z.strictObject({
    document: z.string().max(500_000).describe('The whole flow document, in YAML'),
    why: z.string().min(10).max(2000).describe('What it changes and why, for the person who decides'),
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
        fix: 'Mend each of them and propose it again; read_format explains the kinds of steps.',
      });
    const { name } = checked.document;
    const known = flows.names().includes(name);
    // That a closed flow has this name has to be said, or the proposal could never be taken.
    if (known && !workshop.open().includes(name))
      throw new PindroError('request_invalid', {
        why: `The name "${name}" is taken by a flow that is not open to you; choose another`,
      });
    if (known && flows.get(name).text === text)
      throw new PindroError('request_invalid', { why: `This is the draft of "${name}" as it is already` });
    const { id } = proposals.add({ flow: name, text, why, key: access.name, caller: access.caller.id, client });
    return {
      result: {
        proposal: id,
        flow: name,
        kind: known ? 'a change' : 'a new flow',
        next: 'A person has to take it. Ask follow_proposal what became of it.',
      },
    };
  },
});
