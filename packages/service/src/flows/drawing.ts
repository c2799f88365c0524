import type { FlowPreview } from '@pindro/contract';
import {
  allSteps,
  type Draft,
  type FlowDocument,
  inputSchema,
  type Json,
  linksOf,
  pointer,
  readDraft,
  type Surroundings,
  stepKind,
  warningsOf,
} from '@pindro/core';
import { cardsOf } from './cards.js';

/** The JSON of a document, where a thread has written it: writing a long one takes as long as storing it. */
export interface Written {
  json?: string | undefined;
}

export interface DrawnDraft {
  draft: Draft & Written;
  /** JSON of its {@link FlowPreview}. */
  preview: string;
}

/** Reads a draft and draws it. The drawing of a large one is long: it is written where it is made. */
export function drawDraft(written: string | Json, surroundings?: Surroundings, into?: string): DrawnDraft {
  const draft = readDraft(written, surroundings, into);
  const warnings = draft.document ? warningsOf(draft.document, surroundings ?? {}) : [];
  const drawn = draft.document ? drawing(draft.document) : EMPTY;
  const preview: FlowPreview = { ...drawn, mistakes: draft.mistakes, warnings };
  const json = draft.document ? JSON.stringify(draft.document) : undefined;
  return { draft: { ...draft, json }, preview: JSON.stringify(preview) };
}

const EMPTY = { cards: [], links: [], bodies: {}, input: {}, document: null };

function drawing(document: FlowDocument): Omit<FlowPreview, 'mistakes' | 'warnings'> {
  return {
    cards: cardsOf(document),
    links: linksOf(document),
    bodies: bodiesOf(document),
    input: inputSchema(document) as FlowPreview['input'],
    document: document as unknown as FlowPreview['document'],
  };
}

function bodiesOf(document: FlowDocument): FlowPreview['bodies'] {
  const bodies = [...allSteps(document.steps)].flatMap(({ step, at }) => {
    const body = stepKind(step.kind)?.body?.(step.with ?? {});
    return body ? [[pointer([...at, 'with']), { cards: cardsOf(body), links: linksOf(body) }]] : [];
  });
  return Object.fromEntries(bodies);
}
