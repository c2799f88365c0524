import {
  type FlowDocument,
  inputSchema,
  type Json,
  type JsonObject,
  type JsonSchema,
  PindroError,
  receiptWords,
  Template,
} from '@pindro/core';
import express, { type Express, type Request, type Response } from 'express';
import type { Values } from '../values/values.js';
import { FormChoices } from './form-choices.js';
import type { Choices } from './form-fields.js';
import { fields, LOAD_CHOICES, properties } from './form-fields.js';
import { bounded, type EntryParts, perMinute } from './hooks.js';
import { escapeHtml, htmlPage, paragraphs, publicPage } from './page.js';
import type { EntryRecord } from './store.js';
import { fromTexts } from './texts.js';
import { visitorOf } from './visitor.js';

type FormSettings = Extract<EntryRecord['settings'], { kind: 'form' }>;
interface FormParts extends EntryParts {
  documentOf(flow: string): FlowDocument;
  values: Values;
}
/** Errors that are a no of the flow or of a person, not a failure. */
const REFUSALS = ['stopped_as_failed', 'not_approved'];
const pages = new WeakMap<Request, { entry: EntryRecord; settings: FormSettings }>();

/** Answers at /forms/NAME with a page made from the flow's inputs. */
export function formRoutes(app: Express, { store, documentOf, bodyLimit, begin, signer, values }: FormParts): void {
  const choices = new FormChoices(values);
  const open = (request: Request, _response: Response, next: () => void) => {
    const path = String(request.params.path);
    const entry = store.at('form', path);
    if (entry?.settings.kind !== 'form')
      throw new PindroError('not_found', { what: 'form', name: path, suggestion: 'Check the address.' });
    pages.set(request, { entry, settings: entry.settings });
    next();
  };
  const draw = async (request: Request, given: JsonObject = {}, problem: PindroError | null = null) => {
    const { entry, settings } = pages.get(request)!;
    const document = documentOf(entry.flow);
    const about = settings.about || document.description || '';
    const title = settings.title || document.title || entry.flow;
    const schema = inputSchema(document);
    const listed: Choices = settings.choices ? await choices.of(entry, schema, given) : new Map();
    const controls = fields(schema, given, problem, listed);
    // Enter presses the first button, which must not be one that loads choices.
    const first = [...listed.values()].some(({ depends }) => depends)
      ? '<button class="default" tabindex="-1" aria-hidden="true"></button>'
      : '';
    return htmlPage(
      title,
      `${paragraphs(about)}${problem ? problemBox(problem) : ''}<form method="post" action="/forms/${entry.path}">${first}${controls}<button>${escapeHtml(settings.button)}</button></form>`,
    );
  };
  const endPage = (entry: EntryRecord, settings: FormSettings, content: string) =>
    htmlPage(settings.title || documentOf(entry.flow).title || entry.flow, `<div role="status">${content}</div>`);
  app.get(
    '/forms/:path',
    publicPage,
    open,
    async (request, response) => void response.type('html').send(await draw(request)),
  );
  app.post(
    '/forms/:path',
    publicPage,
    open,
    perMinute((request) => pages.get(request)!.entry),
    bounded(
      (limit) => express.urlencoded({ extended: false, limit, parameterLimit: 500 }),
      (request) => pages.get(request)!.settings.bodyLimit,
      bodyLimit,
    ),
    async (request: Request, response: Response) => {
      const { entry, settings } = pages.get(request)!;
      const schema = inputSchema(documentOf(entry.flow));
      const input = fromTexts(schema, withUnchecked(schema, (request.body ?? {}) as Record<string, unknown>));
      // A button next to a field loads its values, which depend on the other fields. No run starts.
      if (request.query[LOAD_CHOICES] !== undefined) return void response.type('html').send(await draw(request, input));
      store.used(entry.id, Date.now());
      const { error, state, receipt, result } = await begin({
        entry,
        input,
        caller: visitorOf(request, response, entry, signer).caller,
      }).outcome;
      const outcome = outcomeOf(state, error);
      const ending = outcome === 'done' || outcome === 'again' ? null : settings[outcome];
      if (ending) {
        if (ending.address) return response.redirect(303, ending.address);
        const text = fillText(ending.message, {
          input,
          error: error ? { code: error.code, message: error.message } : null,
        });
        return void response
          .status(error?.status ?? 200)
          .type('html')
          .send(endPage(entry, settings, paragraphs(text)));
      }
      // What was filled in stays; only what is wrong needs to be written again.
      if (error)
        return void response
          .status(error.status)
          .type('html')
          .send(await draw(request, input, error));
      if (settings.after === 'address' && settings.address) return response.redirect(303, settings.address);
      if (settings.after === 'form' && settings.address) return response.redirect(303, `/forms/${settings.address}`);
      const told = receipt ? paragraphs(receiptWords(receipt)) : '';
      const waits = state === 'waiting' ? '<p>Your request is being reviewed.</p>' : '';
      const text =
        outcome === 'done' ? fillText(settings.message, { input, result: result as Json }) : settings.message;
      response.type('html').send(endPage(entry, settings, `${told}${paragraphs(text)}${waits}`));
    },
  );
}

/** How a form ended; an input that does not fit is asked for again, and is no end. */
function outcomeOf(state: string, error: PindroError | null): 'done' | 'waiting' | 'refused' | 'failed' | 'again' {
  if (!error) return state === 'waiting' ? 'waiting' : 'done';
  if (error.code === 'input_refused') return 'again';
  return REFUSALS.includes(error.code) ? 'refused' : 'failed';
}

/** A text of the builder with its expressions filled in; one that has no value leaves a gap. */
function fillText(text: string, scope: JsonObject): string {
  try {
    const { value, missing } = new Template(text).fill(scope);
    return missing.length > 0
      ? text.replaceAll(/\$\{[^}]*\}/g, '').trim()
      : typeof value === 'string'
        ? value
        : JSON.stringify(value);
  } catch {
    return text.replaceAll(/\$\{[^}]*\}/g, '').trim();
  }
}

/** A box that is not ticked is not sent; it means no. */
function withUnchecked(schema: JsonSchema, body: Record<string, unknown>): Record<string, unknown> {
  const boxes = properties(schema).filter(([, property]) => property.type === 'boolean');
  return { ...Object.fromEntries(boxes.map(([name]) => [name, 'false'])), ...body };
}

function problemBox(problem: PindroError): string {
  const said = problem.mistakes?.map((mistake) => `<li>${escapeHtml(mistake.message)}</li>`).join('');
  const words = problem.code === 'input_refused' ? 'Please correct the following' : problem.message;
  return `<div class="problem" role="alert"><p>${escapeHtml(words)}</p>${said ? `<ul>${said}</ul>` : ''}</div>`;
}
