import { PindroError } from '../../errors/errors.js';
import { cutTemplate, readsVariable } from '../../expression/cut.js';
import { asJson, isObject, type Json, type JsonObject } from '../../json/json.js';
import type { FillLate } from '../../tools/source.js';
import type { ToolboxEntry } from '../config.js';
import type { AgentContext } from '../context.js';
import { partOf } from '../memory/memory.js';
import type { AgentTool } from './toolbox.js';

/** Fills a text or value of the step; @param more what else it may read */
export type FillPart = (value: Json, at: PropertyKey[], more?: JsonObject) => Json;

/**
 * Evaluates the expressions of a toolbox. Rules that read stored values are evaluated when a tool is called.
 * @param toolbox rows as written
 * @param fill evaluates a part of the configuration
 * @returns rows with values
 */
export function fillToolbox(toolbox: ToolboxEntry[], fill: FillPart): ToolboxEntry[] {
  const part = (value: Json, at: PropertyKey[]): Json => {
    if (!readsVariable(value, 'kept')) return fill(value, at);
    if (isObject(value) && 'set' in value) return { set: value.set!, late: true };
    if (Array.isArray(value)) return value.map((item, index) => part(item, [...at, index]));
    if (!isObject(value)) throw notThere(String(value));
    return Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, part(inner, [...at, key])]));
  };
  return part(asJson(toolbox), ['toolbox']) as unknown as ToolboxEntry[];
}

const notThere = (expression: string) =>
  new PindroError('no_value', { expression, why: 'stored values are available to rules and instructions only' });

/**
 * Evaluates instructions with stored values. A line with a missing value is omitted.
 * @param text of the instructions, with `${ … }`
 * @param kept stored values by name
 * @param fill evaluates a part of the configuration
 * @returns the text without expressions
 */
export function fillInstructions(text: string, kept: JsonObject, fill: FillPart): string {
  const lines: string[] = [];
  for (const line of linesOf(text)) {
    try {
      lines.push(String(fill(line, ['instructions'], { kept })));
    } catch (error) {
      const isMissing = error instanceof PindroError && error.code === 'no_value';
      if (!isMissing || !readsVariable(line, 'kept')) throw error;
    }
  }
  return lines.join('\n');
}

/** The lines of a text, none of which ends within an expression. */
function linesOf(text: string): string[] {
  const lines: string[] = [];
  let line = '';
  for (const one of text.split('\n')) {
    line += one;
    try {
      cutTemplate(line);
      lines.push(line);
      line = '';
    } catch {
      line += '\n';
    }
  }
  return line ? [...lines, line] : lines;
}

/** Evaluates a rule when its tool is called. For a missing value, the model receives the tools that supply it. */
export const lateFiller =
  (fill: FillPart, kept: () => JsonObject, tools: () => readonly AgentTool[]): FillLate =>
  (value, tool) => {
    const known = kept();
    const wanted = [...JSON.stringify(value).matchAll(/\bkept\s*\.\s*([a-z][a-z0-9_]*)/g)].map(([, name]) => name!);
    const missing = [...new Set(wanted)].filter((name) => !Object.hasOwn(known, name));
    try {
      return fill(value, ['toolbox'], { kept: known });
    } catch (error) {
      if (missing.length === 0) throw error;
      const givers = tools()
        .filter(({ keep = {} }) => missing.some((name) => Object.hasOwn(keep, name)))
        .map(({ name }) => name);
      const needs = givers.join(' or ') || missing.join(' and ');
      throw new PindroError('tool_too_early', { tool, needs }, { details: { tool, needs: givers, kept: missing } });
    }
  };

const keptKey = (memory: string) => partOf(memory, 'kept');

/** What earlier exchanges kept. @param expires how long a memory holds, in milliseconds */
export async function recallKept(
  memory: string,
  { run: { ports } }: AgentContext,
  expires?: number,
): Promise<JsonObject> {
  const [kept] = (await ports.memory.look?.(keptKey(memory), expires)) ?? [];
  return isObject(kept) ? kept : {};
}

export async function saveKept(memory: string, kept: JsonObject, { run: { ports } }: AgentContext): Promise<void> {
  if (Object.keys(kept).length > 0) await ports.memory.save(keptKey(memory), [kept]);
}
