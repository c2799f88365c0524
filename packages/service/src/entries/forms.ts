import {
  type FlowDocument,
  inputSchema,
  isObject,
  type Json,
  type JsonObject,
  type JsonSchema,
  PindroError,
  receiptWords,
  Template,
} from '@pindro/core';
import express, { type Express, type Request, type Response } from 'express';
import { bounded, type EntryParts, perMinute } from './hooks.js';
import { escapeHtml, htmlPage, paragraphs, publicPage } from './page.js';
import type { EntryRecord } from './store.js';
import { fromTexts } from './texts.js';
import { visitorOf } from './visitor.js';

type FormSettings = Extract<EntryRecord['settings'], { kind: 'form' }>;
interface FormParts extends EntryParts {
  documentOf(flow: string): FlowDocument;
}
/** Errors that are a no of the flow or of a person, not a failure. */
const REFUSALS = ['stopped_as_failed', 'not_approved'];
const pages = new WeakMap<Request, { entry: EntryRecord; settings: FormSettings }>();

/** Answers at /forms/NAME with a page made from the flow's inputs. */
export function formRoutes(app: Express, { store, documentOf, bodyLimit, begin, signer }: FormParts): void {
  const open = (request: Request, _response: Response, next: () => void) => {
    const path = String(request.params.path);
    const entry = store.at('form', path);
    if (entry?.settings.kind !== 'form')
      throw new PindroError('not_found', { what: 'form', name: path, suggestion: 'Check the address.' });
    pages.set(request, { entry, settings: entry.settings });
    next();
  };
  const draw = (request: Request, given: JsonObject = {}, problem: PindroError | null = null) => {
    const { entry, settings } = pages.get(request)!;
    const document = documentOf(entry.flow);
    const about = settings.about || document.description || '';
    const title = settings.title || document.title || entry.flow;
    return htmlPage(
      title,
      `${paragraphs(about)}${problem ? problemBox(problem) : ''}<form method="post">${fields(inputSchema(document), given, problem)}<button>${escapeHtml(settings.button)}</button></form>`,
    );
  };
  const endPage = (entry: EntryRecord, settings: FormSettings, content: string) =>
    htmlPage(settings.title || documentOf(entry.flow).title || entry.flow, `<div role="status">${content}</div>`);
  app.get('/forms/:path', publicPage, open, (request, response) => void response.type('html').send(draw(request)));
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
          .send(draw(request, input, error));
      if (settings.after === 'address' && settings.address) return response.redirect(303, settings.address);
      if (settings.after === 'form' && settings.address) return response.redirect(303, `/forms/${settings.address}`);
      const told = receipt ? paragraphs(receiptWords(receipt)) : '';
      const waits = state === 'waiting' ? '<p>Somebody will look at it first.</p>' : '';
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

const properties = (schema: JsonSchema): [string, JsonSchema][] =>
  Object.entries(isObject(schema.properties) ? schema.properties : {}).map(([name, one]) => [
    name,
    isObject(one) ? one : {},
  ]);

function problemBox(problem: PindroError): string {
  const said = problem.mistakes?.map((mistake) => `<li>${escapeHtml(mistake.message)}</li>`).join('');
  const words = problem.code === 'input_refused' ? 'Please look at these again' : problem.message;
  return `<div class="problem" role="alert"><p>${escapeHtml(words)}</p>${said ? `<ul>${said}</ul>` : ''}</div>`;
}

export function fields(schema: JsonSchema, given: JsonObject, problem: PindroError | null): string {
  const required = Array.isArray(schema.required) ? schema.required.map(String) : [];
  const wrong = new Set(problem?.mistakes?.map((mistake) => mistake.at.split('/')[1]));
  return properties(schema)
    .map(([name, property]) => field(name, property, given[name], required.includes(name), wrong.has(name)))
    .join('');
}

const labelOf = (name: string, property: JsonSchema) =>
  typeof property.title === 'string'
    ? property.title
    : name.replaceAll('_', ' ').replace(/^./, (letter) => letter.toUpperCase());

function field(name: string, property: JsonSchema, value: Json | undefined, needed: boolean, wrong: boolean): string {
  const id = `f-${escapeHtml(name)}`;
  const about = typeof property.description === 'string' ? property.description : '';
  const attributes = [
    `id="${id}"`,
    `name="${escapeHtml(name)}"`,
    needed && property.type !== 'boolean' ? 'required' : '',
    about ? `aria-describedby="${id}-about"` : '',
    wrong ? 'aria-invalid="true"' : '',
  ]
    .filter(Boolean)
    .join(' ');
  const label = escapeHtml(labelOf(name, property));
  const hint = about ? `<p class="about" id="${id}-about">${escapeHtml(about)}</p>` : '';
  if (property.type === 'boolean')
    return `<div class="box"><input type="checkbox" ${attributes} value="true"${value === true ? ' checked' : ''}><label for="${id}">${label}</label>${hint}</div>`;
  const optional = needed ? '' : ' <span class="optional">(if you like)</span>';
  return `<div><label for="${id}">${label}${optional}</label>${hint}${control(property, attributes, value)}</div>`;
}

function control(property: JsonSchema, attributes: string, value: Json | undefined): string {
  const text = value === undefined ? '' : typeof value === 'string' ? value : JSON.stringify(value);
  if (Array.isArray(property.enum)) {
    const options = property.enum.map((one) => {
      const word = escapeHtml(String(one));
      return `<option value="${word}"${one === value ? ' selected' : ''}>${word}</option>`;
    });
    return `<select ${attributes}><option value="">Choose …</option>${options.join('')}</select>`;
  }
  const bounds = [
    ['minimum', 'min'],
    ['maximum', 'max'],
    ['maxLength', 'maxlength'],
  ].flatMap(([keyword, attribute]) =>
    typeof property[keyword!] === 'number' ? [`${attribute}="${property[keyword!]}"`] : [],
  );
  const long = Number(property.maxLength ?? 0) > 200 || property.type === 'object' || property.type === 'array';
  if (long) return `<textarea ${attributes} rows="5">${escapeHtml(text)}</textarea>`;
  return `<input type="${inputType(property)}" ${attributes} ${bounds.join(' ')} value="${property.writeOnly === true ? '' : escapeHtml(text)}">`;
}

function inputType(property: JsonSchema): string {
  if (property.type === 'integer') return 'number';
  if (property.type === 'number') return 'number" step="any';
  if (property.writeOnly === true || property.format === 'password') return 'password';
  const known: Record<string, string> = { date: 'date', email: 'email', uri: 'url', time: 'time' };
  return known[String(property.format)] ?? 'text';
}
