import { isObject, type Json, ownOf } from '../json/json.js';
import type { ArgumentRule, ArgumentRules } from '../ports/ports.js';
import { isGoverned, isSet } from './visible-schema.js';

/* Free of schema libraries, so that the console can use it. */

/** Who supplies one argument of a tool. */
export interface ArgumentSupplier {
  how: 'asked' | 'set' | 'omitted';
  /** The rule that applies: of the tool where it is used, or of its whole server; null where none does. */
  rule: 'own' | 'server' | null;
  /** The value of the rule, which may hold expressions; null unless it is set. */
  value: Json;
}

/**
 * Returns who supplies an argument under the same precedence as `rulesFor`: a tool's own rule wins over its server's.
 * @param argument name of the argument
 * @param serverRules rules for all tools of the server
 * @param own rules of the tool
 * @returns how it is supplied, by which rule, and with what value
 */
export function supplierOf(argument: string, serverRules: ArgumentRules, own: ArgumentRules = {}): ArgumentSupplier {
  const rule = ownOf(own, argument) ?? ownOf(serverRules, argument);
  const from = Object.hasOwn(own, argument) ? 'own' : rule === undefined ? null : 'server';
  return { how: howOf(rule), rule: from, value: isSet(rule) ? rule.set : null };
}

const howOf = (rule: ArgumentRule | undefined): ArgumentSupplier['how'] =>
  rule === 'omit' ? 'omitted' : isGoverned(rule) ? 'set' : 'asked';

/**
 * Describes a supplier: `"valley" (rule of tool server lift)`.
 * @param supplier of an argument
 * @param server name of the tool server; null for none
 * @returns one phrase
 */
export function supplierWords({ how, rule, value }: ArgumentSupplier, server: string | null): string {
  const by = rule === 'server' && server !== null ? ` (rule of tool server ${server})` : '';
  if (how === 'asked') return 'caller';
  return `${how === 'set' ? JSON.stringify(value) : 'omitted'}${by}`;
}

/** The arguments of a tool that rules of its server govern, with who supplies them. */
export const suppliedByServer = (names: readonly string[], serverRules: ArgumentRules): [string, ArgumentSupplier][] =>
  names
    .map((name): [string, ArgumentSupplier] => [name, supplierOf(name, serverRules)])
    .filter(([, { how }]) => how !== 'asked');

/** Reads rules that come from outside as JSON. */
export const asRules = (value: Json | undefined): ArgumentRules => (isObject(value) ? (value as ArgumentRules) : {});
