import { type Json, type JsonObject, PindroError, withHint } from '@pindro/core';
import { z } from 'zod';
import { contractOf, effectWords, waysToCall } from '../contract.js';
import { defineTool } from './tool.js';

/** Number of recent runs that summarize a flow. */
const LATEST = 20;

export const surveyFlows = defineTool({
  name: 'survey_flows',
  title: 'List the flows',
  about:
    'Lists every flow that is open to you: its purpose, its side effects, how to call it, and the outcome of its latest runs. Start here.',
  input: z.strictObject({}),
  reads: true,
  wider: false,
  call: async (_given, parts, { access: { stage } }) => {
    const flows = parts.workshop.open().map(async (name): Promise<JsonObject> => {
      const { document, live } = parts.flows.drafts.get(name);
      const { items } = await parts.runs.list({ flow: name, stage, roots: true, limit: LATEST });
      const failed = items.filter(({ state }) => state === 'failed').length;
      const base = {
        flow: name,
        title: document.title ?? name,
        revision: live,
        latest_runs: items.length === 0 ? 'none yet' : `${items.length - failed} succeeded, ${failed} failed`,
      };
      try {
        const loaded = parts.flows.loadNow(name, stage).document;
        const contract = contractOf(loaded, stage, parts);
        const ways = Object.entries(waysToCall(name, stage, parts)).map(
          ([kind, list]) => `${kind}: ${(list as Json[]).length}`,
        );
        return {
          ...base,
          description: contract.description,
          does: effectWords(contract),
          called_as: ways.join(', ') || 'only by perform_flow',
        };
      } catch (error) {
        if (!(error instanceof PindroError)) throw error;
        return {
          ...base,
          description: document.description ?? '',
          cannot_be_called: withHint(error),
        };
      }
    });
    return { result: { flows: await Promise.all(flows) } };
  },
});
