import type { ToolboxReview } from '@pindro/contract';
import {
  applyToolboxReview,
  asSent,
  dialectNamed,
  estimateTokens,
  letOthers,
  nextOfEach,
  ownOf,
  type ReviewedTool,
  reviewTools,
  type Suggestion,
  select,
  type ToolboxEntry,
  type ToolboxTool,
  toolboxTools,
  wordsOf,
} from '@pindro/core';
import type { FlowStore } from '../flows/store.js';
import type { ModelStore } from '../models/store.js';
import type { ServerStore } from '../servers/store.js';
import type { EndpointDocument } from './document.js';
import { reviewed } from './served.js';
import type { EndpointStore } from './store.js';
import { stepWithToolbox } from './toolbox-step.js';

interface Parts {
  store: EndpointStore;
  flows: FlowStore;
  servers: ServerStore;
  models: ModelStore;
}
type Laid = ReviewedTool & { place: ToolboxTool['place'] };

/** The tools of a toolbox as the agent's model reads them, with where their words can be changed. */
function layOut(toolbox: readonly ToolboxEntry[], { store, servers }: Parts): Laid[] {
  const own = toolboxTools(toolbox, servers.repository.allTools());
  const tools = Object.fromEntries(own.map(({ name, tool }) => [name, tool])) as unknown as EndpointDocument['tools'];
  const served = store.asServed(tools, 'draft').map((tool, index) => ({ ...reviewed(tool), place: own[index]!.place }));
  const carried = toolbox.flatMap((row, index): Laid[] => {
    if (!('endpoint' in row) || !store.find(row.endpoint)) return [];
    const list = store.served(row.endpoint, 'draft').filter(({ trouble }) => trouble === null);
    const { chosen } = select(
      list.map(({ name }) => name),
      row.use,
    );
    return list
      .filter(({ name }) => chosen.includes(name))
      .map((tool) => ({
        ...reviewed(tool),
        description: wordsOf(ownOf(row.tools, tool.name), tool.description),
        place: { row: index, own: tool.name },
      }));
  });
  return [...served, ...carried];
}

/** The same with what their schemas lose in the dialect of the model that is to read them, where it is known which. */
function forModel(list: readonly Laid[], model: unknown, { models }: Parts): Laid[] {
  const name = typeof model === 'string' && models.names().includes(model) ? model : null;
  const dialect = name === null ? undefined : dialectNamed(models.connection(name).dialect);
  if (!dialect) return [...list];
  return list.map((tool) => ({
    ...tool,
    told: { dialect: dialect.name, what: dialect.schema(tool.inputSchema).lost },
  }));
}

/** The fix of a suggestion for a toolbox; one without a location needs a person. */
function suggestionsFor(toolbox: readonly ToolboxEntry[], list: readonly Laid[]): Suggestion[] {
  const places = new Map(list.map(({ name, place }) => [name, place]));
  return reviewTools(list).map((suggestion) => {
    const place = places.get(suggestion.tool ?? '');
    const can = suggestion.fix && place && applyToolboxReview(toolbox, place, suggestion.fix);
    return can ? suggestion : { ...suggestion, fix: null };
  });
}

/** The review of an agent's toolbox. @param at JSON Pointer of the agent step */
export function reviewToolbox(parts: Parts, flow: string, at: string): ToolboxReview {
  const { toolbox, model } = stepWithToolbox(parts.flows.drafts.get(flow).document, at).config;
  const list = forModel(layOut(toolbox, parts), model, parts);
  return {
    suggestions: suggestionsFor(toolbox, list) as ToolboxReview['suggestions'],
    tokens: estimateTokens(list.map(asSent)),
    sent: list.map(asSent) as ToolboxReview['sent'],
    places: list.map(({ place }) => place),
  };
}

/**
 * Applies what the review proposes to the toolbox of the draft, for each tool one after the other.
 * @param wanted ids; all that can be applied if null @returns ids of what was applied
 */
export async function mendStep(
  parts: Parts,
  flow: string,
  at: string,
  wanted: readonly string[] | null,
): Promise<string[]> {
  const { document: here, updatedAt } = parts.flows.drafts.get(flow);
  const { document, config } = stepWithToolbox(here, at);
  const applied: string[] = [];
  for (;;) {
    await letOthers();
    const list = layOut(config.toolbox, parts);
    const places = new Map(list.map(({ name, place }) => [name, place]));
    const found = nextOfEach(suggestionsFor(config.toolbox, list), applied, wanted);
    if (found.length === 0) break;
    for (const { id, tool, fix } of found) {
      config.toolbox = applyToolboxReview(config.toolbox, places.get(tool)!, fix) ?? config.toolbox;
      applied.push(id);
    }
  }
  if (applied.length > 0) await parts.flows.drafts.saveDraft(flow, document, updatedAt);
  return applied;
}
