import { PindroError } from '../../errors/errors.js';
import type { JsonSchema } from '../../json/json.js';
import type { ArgumentRules } from '../../ports/ports.js';
import { ruleMistakes } from '../rules.js';

/** @throws rule_breaks_tool when an argument rule cannot be honoured */
export function refuseBrokenRules(tool: { name: string; inputSchema: JsonSchema }, rules: ArgumentRules): void {
  const mistake = ruleMistakes(tool, rules)[0];
  if (!mistake) return;
  const argument = mistake.at.slice(1);
  throw new PindroError(
    'rule_breaks_tool',
    { tool: tool.name, argument, why: mistake.message },
    { details: { tool: tool.name, argument } },
  );
}
