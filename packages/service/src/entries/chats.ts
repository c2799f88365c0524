import { randomUUID } from 'node:crypto';
import { type FlowDocument, PindroError, receiptWords } from '@pindro/core';
import express, { type Express, type Request, type Response } from 'express';
import type { RunRecord } from '../runs/store.js';
import { type EntryOutcome, type EntryParts, perMinute } from './hooks.js';
import { escapeHtml, htmlPage, paragraphs, publicPage } from './page.js';
import type { EntryRecord } from './store.js';

type ChatSettings = Extract<EntryRecord['settings'], { kind: 'chat' }>;
interface ChatParts extends EntryParts {
  documentOf(flow: string): FlowDocument;
  /** What was said in a session before, oldest first. */
  history(flow: string, session: string): Promise<RunRecord[]>;
}
const COOKIE = 'pindro_chat';
const pages = new WeakMap<Request, { entry: EntryRecord; settings: ChatSettings }>();

/** Answers at /chats/NAME with a page to talk to a flow that takes a message. */
export function chatRoutes(app: Express, { store, documentOf, history, begin }: ChatParts): void {
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
    const session = sessionOf(request, response, entry);
    const title = settings.title || documentOf(entry.flow).title || entry.flow;
    const before = await history(entry.flow, session);
    const turns = before.map((run) => said('you', messageIn(run)) + said('it', answerIn(run)));
    response.type('html').send(htmlPage(title, talk(settings, turns.join('')), '/public/chat.js'));
  });
  app.post(
    '/chats/:path',
    publicPage,
    open,
    perMinute((request) => pages.get(request)!.entry),
    express.urlencoded({ extended: false, limit: '64kb' }),
    async (request: Request, response: Response) => {
      const { entry } = pages.get(request)!;
      const session = sessionOf(request, response, entry);
      const message = String((request.body as { message?: string } | undefined)?.message ?? '').trim();
      if (message === '') return response.redirect(303, `/chats/${entry.path}`);
      store.used(entry.id, Date.now());
      const caller = { id: `chat ${entry.path}`, attributes: {} };
      const outcome = await begin({ entry, input: { message }, caller, session }).outcome;
      // The page's own script asks for the answer alone; without a script the page is shown anew.
      if (request.accepts(['html', 'json']) === 'json') return void response.json({ answer: words(outcome) });
      response.redirect(303, `/chats/${entry.path}`);
    },
  );
}

/** Whoever comes back with the cookie goes on with their own conversation. */
function sessionOf(request: Request, response: Response, entry: EntryRecord): string {
  const known = new RegExp(`(?:^|;\\s*)${COOKIE}=([\\w-]{36})`).exec(request.headers.cookie ?? '')?.[1];
  const session = known ?? randomUUID();
  if (!known)
    response.cookie(COOKIE, session, {
      httpOnly: true,
      sameSite: 'lax',
      path: `/chats/${entry.path}`,
      secure: request.secure,
    });
  return `chat-${session}`;
}

function words({
  result,
  error,
  state,
  receipt,
}: Pick<EntryOutcome, 'result' | 'error' | 'state' | 'receipt'>): string {
  const before = receipt ? `${receiptWords(receipt)}\n\n`.trimStart() : '';
  if (error) return `${before}That did not work: ${error.message}`;
  if (state === 'waiting') return 'Somebody will look at it first.';
  return before + (typeof result === 'string' ? result : JSON.stringify(result));
}

const messageIn = ({ head }: RunRecord) => String((head.input as { message?: unknown })?.message ?? '');
function answerIn({ result, error, state, receipt }: RunRecord): string {
  if (state === 'waiting') return 'Somebody will look at it first.';
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

function talk(settings: ChatSettings, turns: string): string {
  const greeting = settings.greeting ? said('it', settings.greeting) : '';
  return `<ol class="talk" aria-live="polite">${greeting}${turns}</ol>
<form method="post" class="say"><label for="message">Your message</label><input id="message" name="message" required autocomplete="off" maxlength="4000"><button>${escapeHtml('Send')}</button></form>`;
}
