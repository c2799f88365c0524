import type { ErrorCode } from '../errors/errors.js';
import { isObject, type Json, type JsonObject, pointer } from '../json/json.js';
import { attribute } from '../trace/spans/attributes.js';
import type { Span } from '../trace/spans/span.js';
import type { Facts, Need } from './facts.js';
import type { Finding, Place, ProposedFix } from './finding.js';
import { deepest, type Failure, type IndexedTrace, settingAt, stepPointer } from './indexed.js';

/** What a rule says of one trouble. */
export interface Draft extends Pick<Finding, 'title' | 'why' | 'fix' | 'place'> {
  /** The span that shows it. */
  span: string;
  /** Other failed spans that are explained by it. */
  explains?: string[];
  /** The span that led to it without failing itself: its findings come first. */
  because?: string | undefined;
  quotes?: string[];
  cure?: ProposedFix | null;
  /** What tells it from others of the same code in the same flow: a tool, an argument, a server. No values. */
  about: (string | null | undefined)[];
  /** Where the rule knows better than the trace. */
  severity?: Finding['severity'];
}

/** One diagnosis rule: a file in `rules/` and a line in the registry. Rules must not depend on our own messages. */
export interface DiagnosisRule {
  readonly code: string;
  /** What it finds, for the reference. */
  readonly about: string;
  /** What is done about it, for the reference. */
  readonly todo: string;
  /** Facts that it needs in addition to the trace. */
  needs?(trace: IndexedTrace): Need[];
  look(trace: IndexedTrace, facts: Facts): Draft[];
}

type Said = Omit<Draft, 'span' | 'about'> & Partial<Pick<Draft, 'span' | 'about'>>;

/** A rule that explains failures one by one. What it returns nothing for is left to later rules. */
export function failureRule(rule: {
  code: string;
  about: string;
  todo: string;
  codes: readonly ErrorCode[];
  fits?(failure: Failure, trace: IndexedTrace): boolean;
  needs?(failure: Failure, trace: IndexedTrace): Need[];
  explain(failure: Failure, trace: IndexedTrace, facts: Facts): Said | null;
}): DiagnosisRule {
  const { code, about, todo, codes, fits = () => true, needs, explain } = rule;
  const wanted = (trace: IndexedTrace) => trace.open(...codes).filter((failure) => fits(failure, trace));
  return {
    ...{ code, about, todo },
    ...(needs && { needs: (trace) => wanted(trace).flatMap((failure) => needs(failure, trace)) }),
    look: (trace, facts) =>
      wanted(trace).flatMap((failure) => {
        const said = explain(failure, trace, facts);
        return said ? [{ span: failure.span.spanId, about: subject(failure), ...said }] : [];
      }),
  };
}

/** What a failure is about, without values. */
const subject = (failure: Failure): string[] => [
  failure.error.code,
  ...['server', 'tool', 'model', 'table', 'argument', 'step'].map((name) => detail(failure, name)),
];

/** A fact that the error carries, as text. */
export function detail({ error }: Pick<Failure, 'error'>, name: string): string {
  const value = error.details?.[name];
  return value === undefined || value === null ? '' : typeof value === 'string' ? value : JSON.stringify(value);
}

/** The tool server that a failed call was meant for; empty where there is none. */
export const serverOf = (failure: Failure): string =>
  detail(failure, 'server') || String(failure.span.attributes[attribute.server] ?? '');

/** A place in the flow of a failure: what its error points at, or something inside of its step. It is there. */
export function placeInFlow(failure: Failure, trace: IndexedTrace, inside = ''): Place {
  const { error, flow, run, span } = failure;
  const step = trace.stepOf(span);
  const ruled = deepest(run.document, (step ? stepPointer(step) : '') + inside);
  const told = error.at?.startsWith('/steps/') ? deepest(run.document, error.at) : '';
  // An error often points at its step as a whole, or at what is not written there: whichever is nearer holds.
  return { flow, at: told.split('/').length >= ruled.split('/').length ? told : ruled };
}

/** A place inside of the step that a span is, or stands under; also where that step is inside of a loop. It is there. */
export function placeInStep(span: Span | undefined, trace: IndexedTrace, inside = ''): Place | null {
  const step = span && trace.stepOf(span);
  if (!step) return null;
  const { flow, document } = trace.runOf(step);
  return { flow, at: deepest(document, stepPointer(step) + inside) };
}

/** Which row of a toolbox a tool comes from; -1 where none does. */
function rowOf({ toolbox }: JsonObject, server: string, tool: string): number {
  const rows = Array.isArray(toolbox) ? toolbox : [];
  const fits = rows.flatMap((row, at) => (isObject(row) && (row.server === server || row.flow === tool) ? [at] : []));
  // A server may occur in several rows: the one with settings for the tool, or that names it, is used.
  const has = (at: number) => {
    const { tools, use } = rows[at] as JsonObject;
    return (isObject(tools) && tool in tools) || (Array.isArray(use) && use.includes(tool));
  };
  return fits.find(has) ?? fits[0] ?? -1;
}

/** How a tool of an agent is set otherwise, by a span of its call. @param to is given what is set now; null: nothing is to be changed */
export function settingOfTool(
  call: Span,
  trace: IndexedTrace,
  setting: string,
  to: (now: string) => string | null,
): ProposedFix | null {
  const step = trace.stepOf(call);
  const [server, own, flow] = [attribute.server, attribute.ownTool, attribute.flow].map((name) =>
    String(call.attributes[name] ?? ''),
  );
  const index = step ? rowOf(trace.written(step), server!, server ? own! : flow!) : -1;
  if (!step || index < 0) return null;
  const { flow: name, document } = trace.runOf(step);
  const inside = server ? ['tools', own!, setting] : [setting];
  const at = stepPointer(step) + pointer(['with', 'toolbox', index, ...inside]);
  const now = settingAt(document, at, '')?.from;
  const wanted = to(typeof now === 'string' ? now : '');
  const change = wanted === null ? null : settingAt(document, at, wanted);
  return change && { do: 'change', flow: name, ...change };
}

/** Where the builder says what an argument of an agent's tool is. */
export function placeOfArgument(
  failure: Failure,
  trace: IndexedTrace,
  { server, tool, argument }: { server: string; tool: string; argument?: string | undefined },
): Place {
  const step = trace.stepOf(failure.span);
  if (!step) return { flow: failure.flow, at: '' };
  if (!trace.agentOf(failure.span))
    return placeInFlow(failure, trace, `/with/arguments${argument ? `/${argument}` : ''}`);
  const index = rowOf(trace.written(step), server, tool);
  const inside = index < 0 ? '/with/toolbox' : `/with/toolbox/${index}/tools/${tool}/arguments/${argument ?? ''}`;
  return { flow: failure.flow, at: deepest(failure.run.document, stepPointer(step) + inside) };
}

/** What a tool call was sent. */
export const sentBy = ({ span, error }: Failure): { [name: string]: Json } => {
  const sent = span.attributes[attribute.sent] ?? error.details?.arguments ?? span.input;
  return isObject(sent) ? sent : {};
};

/** Formats a value: strings in quotation marks, to distinguish "4" from 4. */
export const quoted = (value: Json | undefined): string => {
  const cut = (text: string) => (text.length > 60 ? `${text.slice(0, 59)}…` : text);
  return typeof value === 'string' ? `"${cut(value)}"` : cut(JSON.stringify(value ?? null));
};

const LOOKED_AT = 8000;
/** The first words of what somebody else sent, as one line. */
export const firstWords = (text: string, most = 160): string => {
  // Of a page of megabytes the beginning says enough.
  const line = text
    .slice(0, LOOKED_AT)
    .replace(/<(script|style)[\s\S]*?<\/\1>/gi, ' ')
    .replace(/<[^<>]*>/g, ' ')
    .replace(/\s+/g, ' ')
    .trim();
  return line.length > most ? `${line.slice(0, most - 1)}…` : line;
};
