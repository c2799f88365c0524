import {
  type JsonObject,
  newSpanId,
  newTraceId,
  PindroError,
  resultText,
  traceparent,
  understandServers,
} from '@pindro/core';
import type { Objects } from '../objects/objects.js';
import type { Api } from '../platform/api.js';
import { fits } from '../platform/search.js';
import type { ServerStore } from './store.js';
import { attachingOf, presentUnderstood } from './understood.js';

export function serverRoutes(api: Api, store: ServerStore, objects: Objects): void {
  const usedBy = (name: string) => objects.usesOf('server', name);
  const detail = (name: string) => store.detail(name, usedBy(name));
  api.on('listServers', ({ query }) => ({
    items: store.list().filter((one) => fits(query.search, one.name, one.url, one.about)),
  }));
  api.on('getServer', (call) => detail(call.param('name')));
  api.on('attachServer', async ({ body }) => {
    await store.attach({
      name: body.name,
      url: body.url,
      credential: body.credential ?? null,
      secret: body.secret,
      rules: (body.rules ?? {}) as JsonObject,
      speaks: body.speaks,
    });
    return detail(body.name);
  });
  api.on('understandServers', ({ body }) => ({
    items: understandServers(body.text).map((one, at) => presentUnderstood(one, at, (name) => store.freeName(name))),
  }));
  api.on('attachUnderstood', async ({ body }) => {
    const found = understandServers(body.text);
    const chosen = found[body.at];
    if (!chosen)
      throw new PindroError(
        'request_invalid',
        { why: `The text speaks of ${found.length} servers; there is none at place ${body.at}` },
        { at: '/at' },
      );
    const name = body.name ?? store.freeName(chosen.name);
    await store.attach({ ...attachingOf(chosen, body.values, body.secret), name });
    return detail(name);
  });
  api.on('refreshServer', async (call) => {
    const name = call.param('name');
    return { ...(await store.refresh(name)), ...detail(name) };
  });
  api.on('callServerTool', async (call) => {
    const start = performance.now();
    store.requireTool(call.param('name'), call.param('tool'));
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
  api.on('changeServer', async (call) => {
    const { name } = store.summary(call.param('name'));
    await store.change(name, { ...call.body, rules: call.body.rules as JsonObject | undefined });
    return detail(name);
  });
  api.on('renameServer', (call) => {
    const { name } = store.summary(call.param('name'));
    return objects.rename('server', name, call.body.to, store);
  });
  api.on('copyServer', (call) => {
    store.copy(call.param('name'), call.body.to);
    return { name: call.body.to };
  });
  api.on('serverUses', (call) => ({ items: usedBy(store.summary(call.param('name')).name) }));
  api.on('detachServer', (call) => {
    const { name } = store.summary(call.param('name'));
    return objects.remove('server', name, { by: call.who.name, ...call.query });
  });
}
