import { PindroError } from '../../errors/errors.js';
import type { JsonObject, JsonSchema } from '../../json/json.js';
import type { ArgumentRules } from '../../ports/ports.js';
import { attribute } from '../../trace/spans/attributes.js';
import { mergeArguments, seenSchema } from '../rules.js';
import type { SourceContext, SourceTool, ToolSource } from '../source.js';
import { refuseBrokenRules } from '../wrap/rules.js';

/** A flow as a tool: what it takes is its input. */
export const flowSource = (
  flow: string,
  settings: { name?: string | undefined; rules: ArgumentRules },
): ToolSource => ({
  name: 'flow',
  list: async (context) => {
    const { document, reads = false } = await context.run.ports.flows.load(flow, context.run.stage);
    const { input, description, title } = document as JsonObject;
    const identity = JSON.stringify(document);
    const inputSchema = (input as JsonSchema) ?? { type: 'object', properties: {} };
    const own = { name: settings.name ?? flow, inputSchema, identity };
    refuseBrokenRules(own, settings.rules);
    const words = String(description ?? title ?? flow);
    return {
      tools: [flowTool(flow, { ...own, description: words, reads }, settings.rules, context)],
      ...{ instructions: '', held: {} },
    };
  },
});

/** A tool that starts a flow. @param tool its name, words, and what the flow takes */
export function flowTool(
  flow: string,
  tool: { name: string; inputSchema: JsonSchema; description: string; reads?: boolean | undefined; identity: string },
  rules: ArgumentRules,
  { services }: Pick<SourceContext, 'services'>,
): SourceTool {
  return {
    ...{ name: tool.name, description: tool.description, schema: seenSchema(tool.inputSchema, rules) },
    origin: `flow ${flow}`,
    identity: tool.identity,
    attributes: { [attribute.flow]: flow },
    reads: tool.reads === true,
    resumes: true,
    prepare: (given, late) => mergeArguments(tool, rules, given, late),
    call: async (given, { span, signal, path, budget, late }) => {
      const merged = mergeArguments(tool, rules, given, late);
      const outcome = await services.startFlow(flow, merged, {
        parentSpan: span.id,
        entry: 'agent',
        signal,
        at: path,
        budget,
      });
      span.set({ [attribute.childRun]: outcome.run });
      const { run } = outcome;
      if (outcome.state === 'waiting') {
        const data = { run, state: 'waiting', waits_for: outcome.waitsFor?.what ?? '' };
        const text = `The run is not finished. ${outcome.waitsFor?.what ?? 'It is waiting'}. It continues automatically as run ${run}.`;
        return { text, data, content: [{ type: 'text', text }], run, record: data };
      }
      if (outcome.state !== 'done')
        throw outcome.error
          ? PindroError.from(outcome.error)
          : new PindroError('cancelled', { what: `Flow "${flow}"` });
      const said = typeof outcome.result === 'string' ? outcome.result : JSON.stringify(outcome.result);
      const { unchanged = [] } = outcome;
      // Readers of the result must not mistake it for success.
      const text = unchanged.length === 0 ? said : `${unchanged.join(', ')} changed nothing: no row matched. ${said}`;
      const { receipt } = outcome;
      const answer = {
        text,
        data: outcome.result,
        content: [{ type: 'text' as const, text }],
        run,
        record: outcome.result,
      };
      return { ...answer, ...(receipt && { receipt }) };
    },
  };
}
