import {
  asJson,
  type FlowDocument,
  isObject,
  type Json,
  PindroError,
  pointerParts,
  type RunRequest,
} from '@pindro/core';

type What = Pick<RunRequest, 'document' | 'revision' | 'stage'>;

/** What is another this time. */
export interface Otherwise {
  /** Another model connection for the step it is done from, or for all steps that ask one. */
  model?: string | undefined;
  /** What stands at places of the flow, by JSON Pointer. */
  set?: { [at: string]: Json } | undefined;
}

/** The document with what is another for this time only: nothing is kept of it. @throws request_invalid */
export function differently(
  what: What,
  from: string | undefined,
  { model, set = {} }: Otherwise,
): What & { changed?: string[] } {
  const places: { [at: string]: Json } = { ...set };
  if (model !== undefined) for (const step of askers(what.document, from)) places[`/steps/${step}/with/model`] = model;
  if (Object.keys(places).length === 0) return what;
  const document = structuredClone(what.document);
  for (const [at, value] of Object.entries(places)) put(asJson(document), at, value);
  return { ...what, document, revision: null, changed: Object.keys(places) };
}

/** The steps that ask a model. */
function askers({ steps }: FlowDocument, from: string | undefined): string[] {
  const asks = Object.keys(steps).filter((name) => ['agent', 'model'].includes(steps[name]!.kind));
  const found = from === undefined ? asks : asks.filter((name) => name === from);
  if (found.length > 0) return found;
  const why = from === undefined ? 'No step of the flow uses a model' : `Step "${from}" uses no model`;
  throw new PindroError('request_invalid', { why }, { at: '/model' });
}

function put(document: Json, at: string, value: Json): void {
  const parts = pointerParts(at).map(String);
  const last = parts.pop()!;
  let here: Json | undefined = document;
  for (const part of parts)
    here =
      (isObject(here) || Array.isArray(here)) && Object.hasOwn(here, part)
        ? (here as { [name: string]: Json })[part]
        : undefined;
  const fits = Array.isArray(here) ? /^\d+$/.test(last) && Number(last) <= here.length : isObject(here);
  if (!fits || ['__proto__', 'constructor', 'prototype'].includes(last))
    throw new PindroError('request_invalid', { why: `The flow has nothing at ${at}` }, { at: '/set' });
  (here as { [name: string]: Json })[last] = value;
}
