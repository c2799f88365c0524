import { PindroError } from '@pindro/core';
import type { Express, RequestHandler } from 'express';

/** A layer of a router of Express 5: a route, or a router below a path. */
interface Layer {
  match(path: string): { path: string } | false;
  route?: { methods: Record<string, boolean> };
  handle: { stack?: Layer[] };
}

/** Returns the methods that some route answers at a path, sorted. */
function methodsAt(stack: readonly Layer[], path: string): string[] {
  const methods = stack.flatMap((layer): string[] => {
    const below = layer.route ?? layer.handle.stack;
    const match = below && layer.match(path);
    if (!match) return [];
    if (layer.route) return Object.keys(layer.route.methods).map((method) => method.toUpperCase());
    return methodsAt(layer.handle.stack!, path.slice(match.path.length) || '/');
  });
  return [...new Set(methods.includes('GET') ? [...methods, 'HEAD'] : methods)].sort();
}

/**
 * Refuses every request that reached it: with `method_not_allowed` and the methods there are (RFC 9110, section 15.5.6)
 * where the path has a route, with `no_such_address` elsewhere.
 */
export const refuseUnknown =
  (app: Express): RequestHandler =>
  ({ method, path }, response) => {
    const allow = methodsAt((app.router as unknown as { stack: Layer[] }).stack, path).join(', ');
    if (allow === '') throw new PindroError('no_such_address', { method, path });
    response.setHeader('Allow', allow);
    throw new PindroError('method_not_allowed', { method, path, allow });
  };
