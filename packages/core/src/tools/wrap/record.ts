import type { JsonObject } from '../../json/json.js';
import { asJson } from '../../json/json.js';
import { attribute } from '../../trace/spans/attributes.js';
import type { CallContext, SourceTool, ToolAnswer } from '../source.js';

/** Calls a tool as a span of the run, with input, output and error. */
export async function recorded(tool: SourceTool, given: JsonObject, context: CallContext): Promise<ToolAnswer> {
  const span = context.recorder.span('tool', `execute_tool ${tool.name}`, context.parentSpan, {
    input: given,
    attributes: {
      [attribute.operation]: 'execute_tool',
      [attribute.tool]: tool.name,
      ...tool.attributes,
      ...(context.approval && { [attribute.approval]: asJson(context.approval) }),
    },
  });
  try {
    const answer = await tool.call(given, { ...context, span, fresh: 0 });
    span.done(answer.record ?? answer.data);
    return answer;
  } catch (error) {
    const failure = context.signal.aborted ? context.signal.reason : error;
    span.fail(failure);
    throw failure;
  }
}
