import { asPindroError } from '../../errors/errors.js';
import { Template } from '../../expression/template.js';
import { type JsonObject, setOwn } from '../../json/json.js';
import { attribute } from '../../trace/spans/attributes.js';
import type { SourceTool, ToolAnswer } from '../source.js';

/** What is kept under one name may be so long, in characters of its JSON. */
const LONGEST = 16 * 1024;

/** Keeps values of what comes back for the rest of a conversation. What cannot be kept fails no call; its span says why. */
export function keeping(tool: SourceTool, keep: Record<string, string>): SourceTool {
  const values = Object.entries(keep).map(
    ([name, expression]) => [name, new Template(`\${ ${expression} }`, ['keep', name])] as const,
  );
  return {
    ...tool,
    call: async (given, calling) => {
      const answer = await tool.call(given, calling);
      const { kept, left } = keptOf(values, given, answer);
      if (Object.keys(kept).length > 0) calling.span.set({ [attribute.keptValues]: kept });
      if (Object.keys(left).length > 0) calling.span.set({ [attribute.notKept]: left });
      return { ...answer, kept };
    },
  };
}

function keptOf(values: readonly (readonly [string, Template])[], args: JsonObject, answer: ToolAnswer) {
  const kept: JsonObject = {};
  const left: JsonObject = {};
  const scope = { args, result: answer.data ?? answer.text };
  for (const [name, template] of values) {
    try {
      const value = template.require(scope);
      const { length } = JSON.stringify(value);
      if (length > LONGEST) setOwn(left, name, `the value has ${length} characters, and the limit is ${LONGEST}`);
      else setOwn(kept, name, value);
    } catch (error) {
      setOwn(left, name, asPindroError(error).message);
    }
  }
  return { kept, left };
}
