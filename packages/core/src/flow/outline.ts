import { isObject, type Json, type JsonObject } from '../json/json.js';
import type { StepDocument } from '../steps/document.js';
import { stepKind } from '../steps/registry.js';
import type { StepCard, StepLink } from './card.js';
import type { FlowDocument } from './document.js';
import { readLink } from './graph.js';

/**
 * Returns the card of a step.
 * @param name of the step
 * @param step as in the document
 * @returns the card, with a sentence even where the kind is unknown
 */
export function outlineOf(name: string, step: StepDocument): StepCard {
  const kind = stepKind(step.kind);
  const given = step.with ?? {};
  const branches = (kind?.branches(given) ?? []).map((branch) => branch.name);
  if (step.on_error === 'branch') branches.push('error');
  return {
    name,
    kind: step.kind,
    title: step.title ?? name.replaceAll('_', ' '),
    note: step.note ?? '',
    off: step.off ?? false,
    under: step.under ?? '',
    sentence: (kind?.sentence(given) ?? []).filter((part) => part !== ''),
    branches,
    output: kind?.output(given) ?? {},
    inside: Object.keys(kind?.body?.(given)?.steps ?? {}),
    tools: toolRows(given),
  };
}

/**
 * Lists the links between the steps of a document.
 * @param document with steps
 * @returns links in the order of the steps; links to missing steps are left out
 */
export function linksOf(document: Pick<FlowDocument, 'steps'>): StepLink[] {
  return Object.entries(document.steps).flatMap(([to, step]) =>
    (step.after ?? [])
      .map(readLink)
      .filter((link) => Object.hasOwn(document.steps, link.from))
      .map((link) => ({ from: link.from, to, branch: link.branch })),
  );
}

function toolRows(config: JsonObject): StepCard['tools'] {
  const rows = Array.isArray(config.toolbox) ? config.toolbox.filter(isObject) : [];
  return rows.map((row) => ({
    from: originOf(row),
    use: row.off === true ? 'off' : useOf(row),
    set: setArguments(row.tools),
  }));
}

const ORIGINS: [field: string, word: string][] = [
  ['endpoint', 'endpoint'],
  ['server', 'tool server'],
  ['flow', 'flow'],
];
function originOf(row: JsonObject): string {
  const [field, word] = ORIGINS.find(([name]) => name in row) ?? ['', 'tools'];
  return `${word} ${row[field] || '…'}`;
}

function useOf(row: JsonObject): string {
  if (Array.isArray(row.use)) return choiceWords(row.use.map(String));
  return 'flow' in row ? String(row.name ?? row.flow) : 'all tools';
}

/** Names and patterns as people say them; a leading exclamation mark leaves one out. */
function choiceWords(use: string[]): string {
  const out = use.filter((one) => one.startsWith('!')).map((one) => one.slice(1));
  const taken = use.filter((one) => one !== '' && !one.startsWith('!'));
  if (taken.length === 0) return out.length > 0 ? `every tool but ${out.join(', ')}` : 'all tools';
  return `${taken.join(', ')}${out.length > 0 ? `, without ${out.join(', ')}` : ''}`;
}

function setArguments(tools: Json | undefined): string[] {
  return Object.entries(isObject(tools) ? tools : {}).flatMap(([tool, change]) => {
    const rules = isObject(change) && isObject(change.arguments) ? Object.entries(change.arguments) : [];
    return rules.flatMap(([name, rule]) =>
      isObject(rule) && 'set' in rule ? [`${tool}.${name} = ${JSON.stringify(rule.set)}`] : [],
    );
  });
}
