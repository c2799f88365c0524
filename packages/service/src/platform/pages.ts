import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { CONSOLE_PAGES } from '@pindro/contract';
import { PindroError } from '@pindro/core';
import { type Express, type RequestHandler, Router } from 'express';
import helmet from 'helmet';
import sirv from 'sirv';

const YEAR = 365 * 24 * 3600;

/** Addresses of programs. */
const OTHERS = /^\/(?:api|mcp|assets|\.well-known)(?:\/|$)/;

/**
 * Serves the built console: its files as they are, and its one page for every address of a page. Any other address is not
 * found: programs get the problem, browsers the page that says so.
 */
export function servePages(app: Express, directory: string | undefined): void {
  if (!directory || !existsSync(join(directory, 'index.html'))) return;
  const secured = helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'self'"],
        styleSrc: ["'self'", "'unsafe-inline'"],
        imgSrc: ["'self'", 'data:'],
        mediaSrc: ["'self'", 'data:'],
        fontSrc: ["'self'", 'data:'],
        objectSrc: ["'none'"],
        baseUri: ["'none'"],
        formAction: ["'self'"],
        frameAncestors: ["'none'"],
      },
    },
    strictTransportSecurity: false,
  });
  // Compressed copies were created at build time; names contain a content hash.
  const files = { brotli: true, gzip: true, dotfiles: false };
  app.use('/assets', secured, sirv(join(directory, 'assets'), { ...files, immutable: true, maxAge: YEAR }));
  const page = sirv(directory, {
    ...files,
    single: true,
    setHeaders: (response) => response.setHeader('cache-control', 'no-cache'),
  });
  const pages = CONSOLE_PAGES.flatMap((name) => (name === '' ? ['/'] : [`/${name}`, `/${name}/*rest`]));
  app.get(pages, secured, (request, response, next) => {
    if (!request.accepts('html'))
      return next(new PindroError('no_such_address', { method: request.method, path: request.path }));
    request.url = '/';
    page(request, response, next);
  });
  const isUnknownPage: RequestHandler = ({ path, method, headers }, _response, next) =>
    next(OTHERS.test(path) || method !== 'GET' || !headers.accept?.includes('text/html') ? 'router' : undefined);
  const unknown = Router().use(isUnknownPage, secured, (_request, response) => {
    response.status(404).set('cache-control', 'no-cache').type('html');
    response.send(readFileSync(join(directory, 'index.html')));
  });
  app.use(unknown);
}
