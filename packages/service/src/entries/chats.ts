import { type ApprovalRequest, type FlowDocument, type JsonObject, PindroError, receiptWords } from '@pindro/core';
import express, { type Express, type Request, type RequestHandler, type Response } from 'express';
import type { RunRecord } from '../record/reading/run-store.js';
import { fields } from './form-fields.js';
import { type EntryOutcome, type EntryParts, perMinute } from './hooks.js';
import { escapeHtml, htmlPage, paragraphs, publicPage } from './page.js';
import type { EntryRecord } from './store.js';
import { fromTexts } from './texts.js';
import { type Visitor, visitorOf } from './visitor.js';

type ChatSettings = Extract<EntryRecord['settings'], { kind: 'chat' }>;
interface ChatParts extends EntryParts {
  documentOf(flow: string): FlowDocument;
  /** What was said in a session before, oldest first. */
  history(flow: string, session: string): Promise<RunRecord[]>;
  questions: Questions;
}
/** What visitors are asked, and their answers. */
export interface Questions {
  /** What waits for a caller to decide. */
  open(caller: string): ApprovalRequest[];
  decide(
    question: ApprovalRequest,
    given: { decision: 'approved' | 'refused'; value?: JsonObject | undefined },
    caller: string,
  ): void;
}
const pages = new WeakMap<Request, { entry: EntryRecord; settings: ChatSettings }>();

/** Answers at /chats/NAME with a page to talk to a flow that takes a message. */
export function chatRoutes(app: Express, parts: ChatParts): void {
  const { store, documentOf, history, begin, signer, questions } = parts;
  const open = (request: Request, _response: Response, next: () => void) => {
    const path = String(request.params.path);
    const entry = store.at('chat', path);
    if (entry?.settings.kind !== 'chat')
      throw new PindroError('not_found', { what: 'chat', name: path, suggestion: 'Check the address.' });
    pages.set(request, { entry, settings: entry.settings });
    next();
  };
  app.get('/chats/:path', publicPage, open, async (request, response) => {
    const { entry, settings } = pages.get(request)!;
    const visitor = visitorOf(request, response, entry, signer);
    const session = sessionOf(visitor);
    const title = settings.title || documentOf(entry.flow).title || entry.flow;
    const before = await history(entry.flow, session);
    const waiting = questions.open(visitor.caller.id);
    const turns = before.map((run) => said('you', messageIn(run)) + said('it', answerIn(run, waiting)));
    const isRunning = before.some(({ state }) => state === 'running' || state === 'queued');
    const asked = waiting.map(questionForm(entry)).join('');
    response.type('html').send(htmlPage(title, talk(settings, turns.join(''), asked, isRunning), '/public/chat.js'));
  });
  answerRoute(app, parts, open);
  app.post(
    '/chats/:path',
    publicPage,
    open,
    perMinute((request) => pages.get(request)!.entry),
    express.urlencoded({ extended: false, limit: '64kb' }),
    async (request: Request, response: Response) => {
      const { entry } = pages.get(request)!;
      const visitor = visitorOf(request, response, entry, signer);
      const session = sessionOf(visitor);
      const message = String((request.body as { message?: string } | undefined)?.message ?? '').trim();
      if (message === '') return response.redirect(303, `/chats/${entry.path}`);
      store.used(entry.id, Date.now());
      const { caller } = visitor;
      const outcome = await begin({ entry, input: { message }, caller, session }).outcome;
      // The page's script requests the answer alone; without scripts the page is reloaded.
      if (request.accepts(['html', 'json']) === 'json') {
        const asks = questions.open(caller.id).length > 0;
        return void response.json({ answer: words(outcome), ...(asks && { asks }) });
      }
      response.redirect(303, `/chats/${entry.path}`);
    },
  );
}

/** Answers what an agent asks the visitor. Nobody else's question can be answered here. */
function answerRoute(app: Express, { store, questions, signer }: ChatParts, open: RequestHandler): void {
  app.post(
    '/chats/:path/answer',
    publicPage,
    open,
    perMinute((request) => pages.get(request)!.entry),
    express.urlencoded({ extended: false, limit: '64kb' }),
    (request: Request, response: Response) => {
      const { entry } = pages.get(request)!;
      const { caller } = visitorOf(request, response, entry, signer);
      const { run = '', path = '', decision = '', ...given } = (request.body ?? {}) as Record<string, string>;
      const question = questions.open(caller.id).find((one) => one.run === run && one.path === path);
      // It was answered in another window, or it is not theirs.
      if (!question) return response.redirect(303, `/chats/${entry.path}`);
      const isForm = question.tool === undefined && question.schema !== undefined;
      const value = isForm ? fromTexts(question.schema!, given) : undefined;
      store.used(entry.id, Date.now());
      questions.decide(question, decision === 'approved' ? { decision, value } : { decision: 'refused' }, caller.id);
      response.redirect(303, `/chats/${entry.path}`);
    },
  );
}

/** What an agent asks, as a form on the page of the chat. */
const questionForm =
  (entry: EntryRecord) =>
  ({ run, path, title, message, facts, tool, schema }: ApprovalRequest): string => {
    const isForm = tool === undefined && schema !== undefined;
    const rows = Object.entries(facts).map(
      ([name, value]) =>
        `<dt>${escapeHtml(name)}</dt><dd>${escapeHtml(typeof value === 'string' ? value : JSON.stringify(value))}</dd>`,
    );
    const about = `${paragraphs(message)}${rows.length > 0 ? `<dl>${rows.join('')}</dl>` : ''}`;
    const hidden = `<input type="hidden" name="run" value="${escapeHtml(run)}"><input type="hidden" name="path" value="${escapeHtml(path)}">`;
    const button = (decision: string, label: string, more = '') =>
      `<button name="decision" value="${decision}"${more}>${label}</button>`;
    const [yes, no] = isForm ? ['Send answer', 'Skip'] : ['Approve', 'Reject'];
    return `<form method="post" action="/chats/${entry.path}/answer" class="question"><h2>${escapeHtml(title)}</h2>${about}${hidden}${isForm ? fields(schema, {}, null) : ''}<p>${button('approved', yes)} ${button('refused', no, ' formnovalidate class="plain"')}</p></form>`;
  };

/** The cookie identifies the conversation of a returning visitor. */
const sessionOf = ({ id }: Visitor) => `chat-${id}`;

function words({
  result,
  error,
  state,
  receipt,
}: Pick<EntryOutcome, 'result' | 'error' | 'state' | 'receipt'>): string {
  const before = receipt ? `${receiptWords(receipt)}\n\n`.trimStart() : '';
  if (error) return `${before}Error: ${error.message}`;
  if (state === 'waiting') return 'Your request is being reviewed.';
  return before + (typeof result === 'string' ? result : JSON.stringify(result));
}

const messageIn = ({ head }: RunRecord) => String((head.input as { message?: unknown })?.message ?? '');
function answerIn({ head, result, error, state, receipt }: RunRecord, asked: readonly ApprovalRequest[]): string {
  if (asked.some(({ run }) => run === head.id)) return 'Waiting for your answer below.';
  if (state === 'waiting') return 'Your request is being reviewed.';
  if (state !== 'done' && error === null) return '…';
  return words({
    result,
    state: error ? 'failed' : 'done',
    error: error && PindroError.from(error),
    ...(receipt && { receipt }),
  });
}

const said = (who: 'you' | 'it', text: string) =>
  `<li class="${who}"><span class="who">${who === 'you' ? 'You' : 'Answer'}</span>${paragraphs(text)}</li>`;

function talk(settings: ChatSettings, turns: string, questions: string, isRunning: boolean): string {
  const greeting = settings.greeting ? said('it', settings.greeting) : '';
  return `<ol class="talk" aria-live="polite"${isRunning ? ' data-running' : ''}>${greeting}${turns}</ol>
${questions}<form method="post" class="say"><label for="message">Your message</label><input id="message" name="message" required autocomplete="off" maxlength="4000"><button>${escapeHtml('Send')}</button></form>`;
}
