import { type JsonObject, newSpanId, newTraceId, PindroError, resultText, traceparent } from '@pindro/core';
import type { Api } from '../platform/api.js';
import type { ServerStore } from './store.js';

/** @param usedBy what uses a server, as words for people */
export function serverRoutes(api: Api, store: ServerStore, usedBy: (name: string) => string[]): void {
  const detail = (name: string) => store.detail(name, usedBy(name));
  api.on('listServers', () => ({ items: store.list() }));
  api.on('getServer', (call) => detail(call.param('name')));
  api.on('attachServer', async ({ body }) => {
    await store.attach({
      name: body.name,
      url: body.url,
      credential: body.credential ?? null,
      secret: body.secret,
      rules: (body.rules ?? {}) as JsonObject,
    });
    return detail(body.name);
  });
  api.on('refreshServer', async (call) => {
    const name = call.param('name');
    return { ...(await store.refresh(name)), ...detail(name) };
  });
  api.on('callServerTool', async (call) => {
    const start = performance.now();
    const result = await store.call(call.param('name'), call.param('tool'), call.body.arguments as JsonObject, {
      signal: call.signal,
      traceparent: traceparent(newTraceId(), newSpanId()),
      idempotencyKey: newTraceId(),
    });
    return {
      text: resultText(result),
      data: result.structuredContent ?? null,
      isError: result.isError,
      milliseconds: Math.round(performance.now() - start),
    };
  });
  api.on('detachServer', async (call) => {
    const name = call.param('name');
    const users = usedBy(name);
    if (users.length > 0) throw new PindroError('in_use', { what: 'Tool server', name, users: users.join(', ') });
    await store.detach(name);
    return { done: true };
  });
}
