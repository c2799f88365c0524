import type { Impact } from '@pindro/contract';
import { allSteps, type FlowDocument, inputSchema, isObject, type JsonObject, type JsonSchema } from '@pindro/core';
import type { EndpointStore } from '../endpoints/store.js';
import type { FlowStore } from './store.js';

interface Parts {
  flows: FlowStore;
  endpoints: EndpointStore;
  /** Ways into a flow, with the inputs that each is known to give. */
  entries(flow: string): { name: string; gives: string[] | null }[];
}

const properties = (schema: JsonSchema) => (isObject(schema.properties) ? schema.properties : {});
const required = (schema: JsonSchema) => (Array.isArray(schema.required) ? schema.required.map(String) : []);

/** What a change of a flow's input breaks, once it is live. */
export function impactOf(name: string, { flows, endpoints, entries }: Parts): Impact[] {
  const flow = flows.drafts.get(name);
  const now = inputSchema(flow.document);
  const before = flow.live === null ? null : inputSchema(flows.revisions.version(name, 'live').document);
  const gone = before ? Object.keys(properties(before)).filter((one) => !(one in properties(now))) : [];
  const fresh = before ? required(now).filter((one) => !required(before).includes(one)) : [];
  return [
    ...toolImpact(name, now, endpoints, { gone, fresh }),
    ...callerImpact(name, now, flows),
    ...entries(name).flatMap(({ name: way, gives }): Impact[] => {
      const missing = gives === null ? fresh : required(now).filter((one) => !gives.includes(one));
      return missing.length === 0
        ? []
        : [{ what: 'entry', name: way, why: `It does not supply ${listed(missing)}, which the draft requires.` }];
    }),
  ];
}

function toolImpact(
  name: string,
  now: JsonSchema,
  endpoints: EndpointStore,
  { gone, fresh }: { gone: string[]; fresh: string[] },
): Impact[] {
  return endpoints.carrying(name).flatMap((endpoint) =>
    Object.entries(endpoints.get(endpoint).tools).flatMap(([tool, entry]): Impact[] => {
      if (!('flow' in entry) || entry.flow !== name) return [];
      const ruled = Object.keys(entry.arguments ?? {});
      const lost = ruled.filter((argument) => !(argument in properties(now)));
      const asked = fresh.filter((argument) => !ruled.includes(argument));
      const said = [
        ...(lost.length > 0 ? [`Its argument rules name ${listed(lost)}, which the draft does not accept.`] : []),
        ...(asked.length > 0 ? [`Clients must now also send ${listed(asked)}.`] : []),
        ...(gone.length > 0 ? [`Calls that still send ${listed(gone)} may fail.`] : []),
      ];
      return said.length === 0 ? [] : [{ what: 'tool', name: `${endpoint}.${tool}`, why: said.join(' ') }];
    }),
  );
}

/** Flows that call it with what the draft does not take, or without what it needs. */
function callerImpact(name: string, now: JsonSchema, flows: FlowStore): Impact[] {
  return flows.drafts
    .all()
    .filter((flow) => flow.name !== name)
    .flatMap((flow) => callsOf(name, flow.document).flatMap((given) => misfit(flow.name, given, now)));
}

function callsOf(name: string, document: FlowDocument): JsonObject[] {
  return [...allSteps(document.steps)].flatMap(({ step }) =>
    step.kind === 'flow' && step.with?.flow === name ? [isObject(step.with.input) ? step.with.input : {}] : [],
  );
}

function misfit(caller: string, given: JsonObject, now: JsonSchema): Impact[] {
  const odd = now.additionalProperties === false ? Object.keys(given).filter((one) => !(one in properties(now))) : [];
  const missing = required(now).filter((one) => !(one in given));
  const said = [
    ...(missing.length > 0 ? [`It does not supply ${listed(missing)}, which the draft requires.`] : []),
    ...(odd.length > 0 ? [`It supplies ${listed(odd)}, which the draft does not accept.`] : []),
  ];
  return said.length === 0 ? [] : [{ what: 'flow', name: caller, why: said.join(' ') }];
}

const listed = (names: string[]) => names.map((name) => `"${name}"`).join(', ');
