import type { ToolboxEntry } from '../../agent/config.js';
import type { Mistake } from '../../errors/errors.js';
import { argumentsRead, conditionFault, resultFault } from '../../expression/condition.js';
import { isObject, type Json, type JsonObject, type JsonSchema, ownOf, pointer } from '../../json/json.js';
import type { ToolDescription } from '../../ports/ports.js';
import { didYouMean } from '../../text/suggest.js';
import { isGoverned, ruleMistakes, rulesFor } from '../../tools/rules.js';
import { validate } from '../../tools/schema.js';
import { select } from '../../tools/selection.js';
import type { ToolSettings } from '../../tools/settings.js';
import type { Surroundings } from '../environment.js';

const holdsExpression = (value: Json) => JSON.stringify(value).includes('${');
const namesOf = (tools: readonly ToolDescription[]) => tools.map((tool) => tool.name);

/** What a call of a tool names that is not there, and what it wants and does not get. */
export function toolMistakes(
  { server, tool: name, arguments: given = {}, rules: applied }: JsonObject,
  around: Surroundings,
): Mistake[] {
  const tools = typeof server === 'string' ? ownOf(around.servers ?? {}, server) : undefined;
  if (!tools || tools.length === 0 || typeof name !== 'string' || name.includes('${')) return [];
  const tool = tools.find((one) => one.name === name);
  if (!tool)
    return [{ at: '/tool', message: `"${server}" has no tool "${name}"`, hint: didYouMean(name, namesOf(tools)) }];
  if (!isObject(given)) return [];
  const schema = tool.inputSchema;
  const properties = isObject(schema.properties) ? schema.properties : {};
  const rules = applied === 'none' ? {} : rulesFor(tool, ownOf(around.serverRules ?? {}, String(server)) ?? {});
  const open = schema.additionalProperties !== undefined || ['allOf', 'anyOf', 'oneOf'].some((word) => word in schema);
  const unknown = Object.keys(given)
    .filter((argument) => !Object.hasOwn(properties, argument) && !open)
    .map((argument) => ({
      at: pointer(['arguments', argument]),
      message: `${name} has no argument "${argument}"`,
      hint: didYouMean(argument, Object.keys(properties)),
    }));
  const governed = Object.keys(given)
    .filter((argument) => isGoverned(ownOf(rules, argument)))
    .map((argument) => ({
      at: pointer(['arguments', argument]),
      message: `"${argument}" is supplied by a rule of tool server "${server}"`,
      hint: 'Remove it here, remove the rule there, or set "rules: none" to supply every argument here.',
    }));
  const missing = (Array.isArray(schema.required) ? schema.required.map(String) : [])
    .filter((argument) => !Object.hasOwn(given, argument) && !isGoverned(ownOf(rules, argument)))
    .filter((argument) => !isObject(properties[argument]) || !('default' in (properties[argument] as JsonObject)))
    .map((argument) => ({ at: '/arguments', message: `${name} requires "${argument}"` }));
  const unfit = Object.entries(given).flatMap(([argument, value]) => {
    const property = properties[argument];
    if (!isObject(property) || holdsExpression(value)) return [];
    return validate(property as JsonSchema, value)
      .slice(0, 1)
      .map(({ message }) => ({
        at: pointer(['arguments', argument]),
        message: `"${argument}" of ${name} is invalid: ${message}`,
      }));
  });
  return [...unknown, ...governed, ...missing, ...unfit];
}

/** Rules in a toolbox that its tools cannot have, and conditions that cannot be read. */
export function toolboxMistakes(toolbox: Json | undefined, around: Surroundings): Mistake[] {
  return [
    ...ruleMistakesOf(toolbox, around),
    ...conditionMistakes(toolbox, around),
    ...keepMistakes(toolbox),
    ...circles(toolbox, around),
  ];
}

/** Work that would come back to who hands it on. */
function circles(toolbox: Json | undefined, { handsTo = {}, endpointFlows = {}, self }: Surroundings): Mistake[] {
  if (self === undefined) return [];
  const mistake = (index: number, part: string, way: readonly string[]): Mistake => ({
    at: pointer(['toolbox', index, part]),
    message: `The agents delegate in a loop: ${[self, ...way].join(' → ')}`,
    hint: 'Remove one of them from a toolbox.',
  });
  return rowsOf(toolbox).flatMap(({ row, index }) => {
    if ('flow' in row) {
      const way = wayBack(row.flow, self, handsTo);
      return way ? [mistake(index, 'flow', way)] : [];
    }
    if (!('endpoint' in row)) return [];
    const tools = ownOf(endpointFlows, row.endpoint) ?? {};
    for (const tool of select(Object.keys(tools), row.use).chosen) {
      const way = wayBack(tools[tool]!, self, handsTo);
      if (way) return [mistake(index, 'endpoint', [`${tool} of endpoint ${row.endpoint}`, ...way])];
    }
    return [];
  });
}

/** The flows by which work comes from one to another, or null. */
function wayBack(from: string, to: string, handsTo: Record<string, string[]>): string[] | null {
  const seen = new Set<string>();
  const ways: string[][] = [[from]];
  for (let way = ways.shift(); way; way = ways.shift()) {
    const last = way.at(-1)!;
    if (last === to) return way;
    if (seen.has(last)) continue;
    seen.add(last);
    for (const next of ownOf(handsTo, last) ?? []) ways.push([...way, next]);
  }
  return null;
}

/** Conditions under which somebody is asked before a call. */
function conditionMistakes(toolbox: Json | undefined, around: Surroundings): Mistake[] {
  return rowsOf(toolbox).flatMap(({ row, index }) => {
    const tools = 'server' in row ? (ownOf(around.servers ?? {}, row.server) ?? []) : [];
    const all = 'flow' in row ? [['', row] as const] : Object.entries(row.tools ?? {});
    return all.flatMap(([name, settings]) => {
      const { approval } = settings ?? {};
      if (typeof approval !== 'object' || typeof approval.if !== 'string') return [];
      const at = pointer(['toolbox', index, ...(name ? ['tools', name] : []), 'approval', 'if']);
      const fault = conditionFault(approval.if);
      if (fault)
        return [
          {
            at,
            message: `The condition "${approval.if}" is invalid: ${fault}`,
            hint: 'The arguments of the call are available as args, as in args.weight_kg > 200.',
          },
        ];
      const { properties } = tools.find((one) => one.name === name)?.inputSchema ?? {};
      const known = isObject(properties) ? Object.keys(properties) : null;
      return argumentsRead(approval.if)
        .filter((argument) => known !== null && !known.includes(argument))
        .map((argument) => ({
          at,
          message: `${name} has no argument "${argument}"`,
          hint: didYouMean(argument, known!),
        }));
    });
  });
}

/** What is set for each tool of a toolbox, with where it stands. */
function settingsOf(toolbox: Json | undefined): { settings: ToolSettings; at: PropertyKey[] }[] {
  return rowsOf(toolbox).flatMap(({ row, index }) => {
    const at = ['toolbox', index];
    if ('flow' in row) return [{ settings: row, at }];
    const tools = isObject(row.tools as Json) ? Object.entries(row.tools!) : [];
    return tools.flatMap(([name, settings]) =>
      isObject(settings as Json) ? [{ settings, at: [...at, 'tools', name] }] : [],
    );
  });
}

const keepOf = ({ keep }: ToolSettings) => (isObject(keep as Json) ? Object.entries(keep!) : []);

/** The names under which the tools of a toolbox keep something of their results. */
export const keptNames = (toolbox: Json | undefined): string[] => [
  ...new Set(settingsOf(toolbox).flatMap(({ settings }) => keepOf(settings).map(([name]) => name))),
];

/** Stored values with invalid expressions. */
function keepMistakes(toolbox: Json | undefined): Mistake[] {
  return settingsOf(toolbox).flatMap(({ settings, at }) =>
    keepOf(settings).flatMap(([name, expression]) => {
      const fault = typeof expression === 'string' ? resultFault(expression) : null;
      if (fault === null) return [];
      return [
        {
          at: pointer([...at, 'keep', name]),
          message: `The stored value "${name}" is invalid: ${fault}`,
          hint: 'The result is available as result and the arguments as args, as in result.hut.',
        },
      ];
    }),
  );
}

function ruleMistakesOf(toolbox: Json | undefined, around: Surroundings): Mistake[] {
  return rowsOf(toolbox).flatMap(({ row, index }) => {
    const tools = 'server' in row ? ownOf(around.servers ?? {}, row.server) : undefined;
    if (!tools) return [];
    return Object.entries(('tools' in row && row.tools) || {}).flatMap(([name, change]) => {
      const tool = tools.find((one) => one.name === name);
      if (!tool || !isObject(change as Json)) return [];
      return ruleMistakes(tool, change.arguments ?? {}).map((mistake) => ({
        ...mistake,
        at: `${pointer(['toolbox', index, 'tools', name, 'arguments'])}${mistake.at}`,
      }));
    });
  });
}

/** Names and patterns in a toolbox that fit no tool there is now. */
export function toolboxWarnings(toolbox: Json | undefined, around: Surroundings): Mistake[] {
  return rowsOf(toolbox).flatMap(({ row, index }) => {
    const known =
      'server' in row
        ? namesOf(ownOf(around.servers ?? {}, row.server) ?? [])
        : 'endpoint' in row
          ? (ownOf(around.endpointTools ?? {}, row.endpoint) ?? [])
          : [];
    if (known.length === 0 || 'flow' in row) return [];
    const of = 'server' in row ? `Tool server "${row.server}"` : `Endpoint "${row.endpoint}"`;
    const idle = select(known, row.use).idle.map((pattern) => ({
      at: pointer([
        'toolbox',
        index,
        'use',
        (row.use ?? []).findIndex((one) => one === pattern || one === `!${pattern}`),
      ]),
      message: `${of} has no tool that matches "${pattern}"`,
      hint: didYouMean(pattern, known),
    }));
    const unknown = Object.keys(row.tools ?? {})
      .filter((name) => !known.includes(name))
      .map((name) => ({
        at: pointer(['toolbox', index, 'tools', name]),
        message: `${of} has no tool "${name}"`,
        hint: didYouMean(name, known),
      }));
    return [...idle, ...unknown, ...settingWarnings(row, index, around)];
  });
}

/** What is set for tools and cannot do what it is meant to. */
function settingWarnings(row: ToolboxEntry, index: number, around: Surroundings): Mistake[] {
  if ('flow' in row) return [];
  const tools = 'server' in row ? (ownOf(around.servers ?? {}, row.server) ?? []) : [];
  return Object.entries(row.tools ?? {}).flatMap(([name, settings]) => {
    const at = (part: string) => pointer(['toolbox', index, 'tools', name, part]);
    const tool = tools.find((one) => one.name === name);
    const reads = tool?.annotations?.readOnlyHint === true;
    return [
      ...(settings?.cache !== undefined && tool && !reads
        ? [{ at: at('cache'), message: `Results of ${name} cannot be cached: the tool is not marked read-only` }]
        : []),
      ...(settings?.needs?.includes(settings.name ?? name)
        ? [{ at: at('needs'), message: `${name} requires itself, so it can never be called` }]
        : []),
    ];
  });
}

const rowsOf = (toolbox: Json | undefined): { row: ToolboxEntry; index: number }[] =>
  (Array.isArray(toolbox) ? toolbox : []).flatMap((row, index) =>
    // Nothing of a row that is off is used.
    isObject(row) && row.off !== true ? [{ row: row as unknown as ToolboxEntry, index }] : [],
  );
