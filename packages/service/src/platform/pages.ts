import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { PindroError } from '@pindro/core';
import express, { type Express } from 'express';
import helmet from 'helmet';

/** Serves the built console: its files as they are, and its one page for every address that is a page of it. */
export function servePages(app: Express, directory: string | undefined): void {
  if (!directory || !existsSync(join(directory, 'index.html'))) return;
  const secured = helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'self'"],
        styleSrc: ["'self'", "'unsafe-inline'"],
        imgSrc: ["'self'", 'data:'],
        fontSrc: ["'self'", 'data:'],
        objectSrc: ["'none'"],
        baseUri: ["'none'"],
        formAction: ["'self'"],
        frameAncestors: ["'none'"],
      },
    },
    strictTransportSecurity: false,
  });
  app.use(
    '/assets',
    secured,
    express.static(join(directory, 'assets'), { immutable: true, maxAge: '1y', fallthrough: true }),
  );
  app.get(/^\/(?!api\/|mcp\/|assets\/|\.well-known\/)/, secured, (request, response, next) => {
    if (!request.accepts('html'))
      return next(new PindroError('no_such_address', { method: request.method, path: request.path }));
    response.sendFile(join(directory, 'index.html'), { headers: { 'cache-control': 'no-cache' } });
  });
}
