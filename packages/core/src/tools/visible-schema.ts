import { isObject, type Json, type JsonObject, type JsonSchema, ownOf, setOwn } from '../json/json.js';
import type { ArgumentRule, ArgumentRules, ToolDescription } from '../ports/ports.js';

/* What a model or client sees of a tool under rules. Free of schema libraries, so that the console can use it. */

export type SetRule = { set: Json; late?: true };
export const isSet = (rule: ArgumentRule | undefined): rule is SetRule => isObject(rule) && 'set' in rule;
/** A rule whose value was missing when it was evaluated. */
export const isWithoutValue = (rule: ArgumentRule | undefined) =>
  isObject(rule) && !('set' in rule) && !('ask' in rule);
/**
 * Tells whether a rule supplies an argument in place of the caller or model.
 * @param rule of the argument; undefined if there is none
 * @returns true for a set value and for an omitted argument
 */
export const isGoverned = (rule: ArgumentRule | undefined) => rule === 'omit' || isSet(rule) || isWithoutValue(rule);

export const propertiesOf = (schema: JsonSchema) => (isObject(schema.properties) ? schema.properties : {});
export const requiredOf = (schema: JsonSchema) => (Array.isArray(schema.required) ? (schema.required as string[]) : []);
/**
 * Merges the rules of a server with those of a tool. The rules of the tool win.
 * @param tool description from its server
 * @param serverRules rules for all tools of the server
 * @param own rules of this tool
 * @returns rules by argument
 */
export function rulesFor(tool: ToolDescription, serverRules: ArgumentRules, own: ArgumentRules = {}): ArgumentRules {
  const properties = propertiesOf(tool.inputSchema);
  const shared = Object.entries(serverRules).filter(([name]) => Object.hasOwn(properties, name));
  return { ...Object.fromEntries(shared), ...own };
}

/**
 * Returns the input schema for a model or client: that of the tool without fixed and omitted arguments.
 * @param schema of the tool's input
 * @param rules of its arguments
 * @returns a copy of the schema
 */
export function seenSchema(schema: JsonSchema, rules: ArgumentRules): JsonSchema {
  const seen: JsonSchema = { ...schema, type: 'object' };
  const properties: JsonObject = {};
  for (const [name, property] of Object.entries(propertiesOf(schema))) {
    const rule = ownOf(rules, name);
    if (isGoverned(rule)) continue;
    const seenProperty =
      isObject(rule) && 'ask' in rule
        ? {
            ...((rule.ask.schema as JsonSchema) ?? (property as JsonSchema)),
            ...(rule.ask.description && { description: rule.ask.description }),
          }
        : property;
    setOwn(properties, name, seenProperty);
  }
  seen.properties = properties;
  // Arguments with a default are optional.
  const isFilled = (name: string) => isObject(properties[name]) && 'default' in (properties[name] as JsonObject);
  const required = requiredOf(schema).filter((name) => !isGoverned(ownOf(rules, name)) && !isFilled(name));
  if (required.length > 0) seen.required = required;
  else delete seen.required;
  return seen;
}
