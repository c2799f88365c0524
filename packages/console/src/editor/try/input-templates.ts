import { type FlowDocument, isObject, type JsonObject, putInput } from '@pindro/core/browser';

/** Available values for a new step. */
export interface Facts {
  models: string[];
  tables: string[];
  servers: string[];
  flows: string[];
  /** The most recently viewed table. */
  lastTable: string | null;
}
export const NO_FACTS: Facts = { models: [], tables: [], servers: [], flows: [], lastTable: null };

interface Beginning {
  config: JsonObject;
  /** The flow with the inputs that the step asks for. */
  document: FlowDocument;
}

/** What a new step begins with: what is obvious. What nobody can know is left to fill. */
export function beginningOf(kind: string, document: FlowDocument, facts: Facts, after?: string): Beginning {
  return BEGINNINGS[kind]?.(document, facts, after) ?? { config: {}, document };
}

const only = (names: string[]) => (names.length === 1 ? names[0]! : '');
const named = (field: string, name: string) => (name === '' ? {} : { [field]: name });
const properties = (document: FlowDocument) => (isObject(document.input?.properties) ? document.input.properties : {});

/** The flow with an input, which is made where it is not there yet. */
function withInput(document: FlowDocument, name: string, schema: JsonObject): FlowDocument {
  return name in properties(document) ? document : putInput(document, name, schema, true);
}
const withMessage = (document: FlowDocument) =>
  withInput(document, 'message', { type: 'string', description: 'Message to answer' });

const BEGINNINGS: Record<string, (document: FlowDocument, facts: Facts, after?: string) => Beginning> = {
  agent: (document, { models }) => ({
    config: { ...named('model', only(models)), message: '${ input.message }', memory: { key: ['${ session.id }'] } },
    document: withMessage(document),
  }),
  model: (document, { models }) => ({
    config: { ...named('model', only(models)), message: '${ input.message }' },
    document: withMessage(document),
  }),
  table: (document, { tables, lastTable }) => ({
    config: { ...named('table', lastTable && tables.includes(lastTable) ? lastTable : only(tables)), do: 'find' },
    document,
  }),
  tool: (document, { servers }) => ({ config: named('server', only(servers)), document }),
  flow: (document, { flows }) => ({
    config: named('flow', only(flows.filter((name) => name !== document.name))),
    document,
  }),
  each: (document, _, after) => {
    const source = after === undefined ? undefined : document.steps[after];
    if (source?.kind === 'table' && source.with?.do === 'find')
      return { config: { list: `\${ steps.${after}.rows }`, steps: {} }, document };
    return {
      config: { list: '${ input.items }', steps: {} },
      document: withInput(document, 'items', {
        type: 'array',
        items: { type: 'string' },
        description: 'List to process',
      }),
    };
  },
  choose: (document) => ({ config: { when: { yes: '' } }, document }),
  http: (document) => ({ config: { method: 'GET' }, document }),
  answer: (document, _, after) => ({ config: named('result', after ? `\${ steps.${after} }` : ''), document }),
  shape: (document) => ({ config: { value: {} }, document }),
};
