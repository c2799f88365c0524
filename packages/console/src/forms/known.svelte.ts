import type { TableSummary } from '@pindro/contract/light';
import type { ToolDescription } from '@pindro/core/browser';
import {
  type ArgumentRules,
  asRules,
  isObject,
  type Json,
  type JsonObject,
  type JsonSchema,
  valueAt,
} from '@pindro/core/browser';
import { api } from '../state/api.js';
import { live } from '../state/live.svelte.js';
import type { FieldPlace } from './place.js';
import { resolved } from './schema.js';
import { sourceOfArgument, sourceOfInput } from './value-source.js';

export interface KnownTool {
  name: string;
  description: string;
  schema: JsonSchema;
  annotations?: ToolDescription['annotations'];
}

/** What the workspace holds that forms go by, asked for when a form first needs it and again when it changes. */
class Known {
  #values = $state.raw<Record<string, unknown>>({});
  #asked = new Set<string>();

  constructor() {
    live.on((what) => {
      if (!['everything', 'server', 'endpoint', 'flow', 'table', 'columns'].includes(what)) return;
      // What is shown stays until the new is there.
      this.#asked.clear();
      this.#values = { ...this.#values };
    });
  }

  #of<T>(key: string, ask: () => Promise<T>): T | undefined {
    const known = this.#values[key] as T | undefined;
    if (!this.#asked.has(key)) {
      this.#asked.add(key);
      void ask().then(
        (value) => {
          this.#values = { ...this.#values, [key]: value };
        },
        // What is not there is known not to be, until something changes.
        () => {
          this.#values = { ...this.#values, [key]: null };
        },
      );
    }
    return known;
  }

  /** Null where there is none; undefined until that is known. */
  table(name: string): TableSummary | null | undefined {
    return this.#of<TableSummary | null>(`table ${name}`, () => api.getTable({ name }));
  }
  #server(name: string) {
    return this.#of(`server ${name}`, async () => {
      const { toolList, rules } = await api.getServer({ name });
      const tools = toolList.map((tool) => ({
        name: tool.name,
        description: tool.description,
        schema: resolved(tool.inputSchema as JsonSchema, tool.inputSchema as JsonSchema),
        annotations: tool.annotations,
      }));
      return { tools, rules: asRules(rules as Json) };
    });
  }
  toolsOfServer(name: string): KnownTool[] {
    return this.#server(name)?.tools ?? [];
  }
  /** The argument rules of a tool server. */
  rulesOfServer(name: string): ArgumentRules {
    return this.#server(name)?.rules ?? {};
  }
  toolsOfEndpoint(name: string): KnownTool[] {
    return (
      this.#of(`endpoint ${name}`, async () =>
        (await api.getEndpoint({ name })).toolList.map((tool) => ({
          name: tool.name,
          description: tool.description,
          schema: resolved(tool.schema as JsonSchema, tool.schema as JsonSchema),
        })),
      ) ?? []
    );
  }
  inputOfFlow(name: string): JsonSchema | undefined {
    return this.#of(`flow ${name}`, async () => {
      const { input } = await api.getFlow({ name });
      return resolved(input as JsonSchema, input as JsonSchema);
    });
  }
}

export const known = new Known();

const fixed = (value: Json | undefined) => (typeof value === 'string' && !value.includes('${') ? value : '');

/** The nearest object around a field that has one of some properties, such as the row of a toolbox. */
function around(place: FieldPlace, path: readonly PropertyKey[], names: string[]): JsonObject {
  const parts = path.slice(place.root.length);
  for (let depth = parts.length; depth >= 0; depth--) {
    const here = valueAt(place.config, parts.slice(0, depth)) as Json | undefined;
    if (isObject(here) && names.some((name) => name in here)) return here;
  }
  return {};
}

/** The tools among which a field chooses. */
export function toolsAt(place: FieldPlace, path: readonly PropertyKey[]): KnownTool[] {
  const row = around(place, path, ['server', 'endpoint']);
  if (fixed(row.server)) return known.toolsOfServer(fixed(row.server));
  return fixed(row.endpoint) ? known.toolsOfEndpoint(fixed(row.endpoint)) : [];
}

/** Where the values of an argument come from, for the arguments of a step or the rules of a row. */
export function valuesAt(place: FieldPlace, path: readonly PropertyKey[], argument: string, given: JsonObject) {
  const row = around(place, path, ['server', 'flow']);
  const flow = fixed(row.flow);
  if (flow) {
    const schema = known.inputOfFlow(flow);
    return schema ? sourceOfInput(flow, schema, argument, given) : null;
  }
  const server = fixed(row.server);
  const tool = fixed(around(place, path, ['tool']).tool) || String(path.at(-2) ?? '');
  return server ? sourceOfArgument(server, tool, argument, given, known.toolsOfServer(server)) : null;
}

/** The name and argument rules of the tool server that a field is about, where they apply there. */
export function serverRulesAt(
  place: FieldPlace,
  path: readonly PropertyKey[],
): { server: string; rules: ArgumentRules } {
  const row = around(place, path, ['server']);
  const server = fixed(row.server);
  return { server, rules: server && row.rules !== 'none' ? known.rulesOfServer(server) : {} };
}

/** The columns of the table that a field is about. */
export function columnsAt(place: FieldPlace, path: readonly PropertyKey[]): TableSummary['columns'] {
  const name = fixed(around(place, path, ['table']).table);
  return name ? (known.table(name)?.columns ?? []) : [];
}

/** Whether what a field offers is still being asked for. */
export function isLoadingColumns(place: FieldPlace, path: readonly PropertyKey[]): boolean {
  const name = fixed(around(place, path, ['table']).table);
  return name !== '' && known.table(name) === undefined;
}

/** The schema of what a tool or flow is given, as far as it is known. */
export function givenSchemaAt(place: FieldPlace, path: readonly PropertyKey[], of: 'flow' | 'tool'): JsonSchema | null {
  if (of === 'flow') {
    const flow = fixed(around(place, path, ['flow']).flow);
    return flow ? (known.inputOfFlow(flow) ?? null) : null;
  }
  const tool = fixed(around(place, path, ['tool']).tool);
  return toolsAt(place, path).find(({ name }) => name === tool)?.schema ?? null;
}

/** Every argument that any of some tools has; the first that has it says what it takes. */
function together(tools: KnownTool[]): JsonSchema {
  const properties = tools.toReversed().map(({ schema }) => (isObject(schema.properties) ? schema.properties : {}));
  return { type: 'object', properties: Object.assign({}, ...properties) as JsonObject };
}

/** The schema of the tool whose arguments have rules: the flow of a row, the tool that a row names, or all of a server. */
export function ruledSchemaAt(place: FieldPlace, path: readonly PropertyKey[]): JsonSchema | null {
  if (path.length === 1 && place.editor === null) {
    const tools = toolsAt(place, path);
    return tools.length > 0 ? together(tools) : null;
  }
  const row = around(place, path.slice(0, -1), ['flow', 'server', 'endpoint']);
  if (fixed(row.flow)) return known.inputOfFlow(fixed(row.flow)) ?? null;
  const tool = String(path.at(-2) ?? '');
  return toolsAt(place, path).find(({ name }) => name === tool)?.schema ?? null;
}
