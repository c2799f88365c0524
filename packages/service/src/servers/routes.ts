import { mayUse, RUNS_PROGRAMS, type routes } from '@pindro/contract';
import {
  asPindroError,
  type FetchPort,
  type JsonObject,
  newSpanId,
  newTraceId,
  PindroError,
  resultText,
  traceFields,
} from '@pindro/core';
import type { z } from 'zod';
import type { Objects } from '../objects/objects.js';
import type { Api, Who } from '../platform/api.js';
import { presentable } from '../platform/problems.js';
import { fits } from '../platform/search.js';
import type { ProgramPolicy, Runnable } from '../policy/programs.js';
import { PartByPart } from './attach/attach-stages.js';
import { searchCatalogue } from './attach/catalogue.js';
import { attachingOf, inFolder, presentRecognized } from './attach/recognized.js';
import type { PastedReader } from './connection/reader.js';
import type { ServerStore } from './store.js';
import { usedTools } from './used.js';

interface RouteParts {
  objects: Objects;
  programs: ProgramPolicy;
  /** Who uses tools. */
  users: Parameters<typeof usedTools>[2];
  fetch: FetchPort;
  reader: PastedReader;
}

export function serverRoutes(
  api: Api,
  store: ServerStore,
  { objects, programs, users, fetch, reader }: RouteParts,
): void {
  const usedBy = (name: string) => objects.usesOf('server', name);
  const detail = (given: string) => {
    const { name } = store.summary(given);
    return store.detail(
      name,
      usedBy(name),
      usedTools(
        name,
        store.repository.tools(name).map((tool) => tool.name),
        users,
      ),
    );
  };
  api.on('listServers', ({ query }) => ({
    items: store.list().filter((one) => fits(query.search, one.name, one.where, one.about)),
  }));
  api.on('getServer', (call) => detail(call.param('name')));
  api.on('attachServer', async ({ body, who }) => {
    const { program } = body;
    if (program || body.network?.proxy) requireRunner(who);
    if (!program && body.url === undefined)
      throw new PindroError('request_invalid', { why: 'An address or a program is required' }, { at: '/url' });
    await store.attach({
      name: body.name,
      url: body.url ?? '',
      ...(program && { program: () => program }),
      credential: body.credential ?? null,
      secret: body.secret,
      rules: (body.rules ?? {}) as JsonObject,
      speaks: body.speaks,
      limits: body.limits,
      network: body.network,
      watch: body.watch,
      by: who,
    });
    return detail(body.name);
  });
  api.on('recognizeServers', async ({ body, who }) => {
    const cannot = (program: Runnable) => whyNotRun(who, programs, program);
    const name = (wanted: string) => store.repository.freeName(wanted);
    const found = await reader.understand(body.text, body);
    return { items: found.map((one, at) => presentRecognized(one, at, name, cannot)) };
  });
  api.on('searchCatalogue', ({ body }) => searchCatalogue(fetch, reader, body));
  /** @returns what is to be attached, out of what somebody has of it */
  const chosen = async (body: z.output<typeof routes.attachRecognized.body>, who: Who) => {
    const found = await reader.understand(body.text, body);
    const one = found[body.at];
    if (!one)
      throw new PindroError(
        'request_invalid',
        { why: `The text contains ${found.length} servers; there is none at index ${body.at}` },
        { at: '/at' },
      );
    if (one.way.via === 'command') requireRunner(who);
    const name = body.name ?? store.repository.freeName(one.name);
    return {
      ...attachingOf(inFolder(one, body.folder), body.values, body.secret),
      name,
      skipTest: body.skipTest,
      by: who,
    };
  };
  api.on('attachRecognized', async ({ body, who }) => {
    const attaching = await chosen(body, who);
    await store.attach(attaching);
    return detail(attaching.name);
  });
  api.stream('attachWithProgress', async ({ body, who, signal }, send) => {
    const attaching = await chosen(body, who);
    const parts = new PartByPart((part) => send({ type: 'part', ...part }), signal);
    try {
      await store.attach(attaching, parts);
    } catch (error) {
      parts.failed(error);
      send({ type: 'failed', problem: presentable(error).toProblem() });
      return;
    }
    send({ type: 'attached', server: detail(attaching.name) });
  });
  api.on('refreshServer', async (call) => {
    const name = call.param('name');
    return { ...(await store.refresh(name)), ...detail(name) };
  });
  api.on('callServerTool', async (call) => {
    const start = performance.now();
    store.repository.requireTool(call.param('name'), call.param('tool'));
    const [server, tool] = [call.param('name'), call.param('tool')];
    const given = call.body.arguments as JsonObject;
    const args = store.withRules(server, tool, given, call.who.caller);
    const result = await store.call(server, tool, args, {
      signal: call.signal,
      trace: traceFields({ traceId: newTraceId() }, newSpanId()),
      idempotencyKey: byHand(),
    });
    return {
      text: resultText(result),
      data: result.structuredContent ?? null,
      isError: result.isError,
      milliseconds: Math.round(performance.now() - start),
      supplied: Object.keys(args).filter((name) => !(name in given)),
    };
  });
  api.on('updateServer', async (call) => {
    const { name } = store.summary(call.param('name'));
    // Addresses behind a proxy cannot be checked here.
    if (call.body.program || call.body.network?.proxy) requireRunner(call.who);
    await store.change(name, { ...call.body, rules: call.body.rules as JsonObject | undefined, by: call.who });
    return detail(name);
  });
  api.on('allowProgram', async (call) => {
    const { name } = store.summary(call.param('name'));
    await store.editor.allow(name, call.who, call.body);
    return detail(name);
  });
  api.on('programPermission', (call) => store.editor.permission(call.param('name')));
  api.on('serverLog', (call) => ({ items: store.pool.log(call.param('name'), call.query.after) }));
  api.on('serverActivity', (call) => store.calls.of(store.summary(call.param('name')).name, call.query.hours));
  const samples = (name: string) => ({ items: store.samples.of(name) });
  api.on('listServerSamples', (call) => samples(store.summary(call.param('name')).name));
  api.on('saveServerSample', (call) => {
    const { name } = store.summary(call.param('name'));
    store.repository.requireTool(name, call.body.tool);
    store.samples.keep(name, call.body.tool, call.body.name, call.body.arguments as JsonObject);
    return samples(name);
  });
  api.on('deleteServerSample', (call) => {
    const { name } = store.summary(call.param('name'));
    store.samples.forget(name, Number(call.param('id')));
    return samples(name);
  });
  api.on('serverChanges', (call) => store.watch.changes(call.param('name')));
  api.on('acceptChanges', (call) => {
    store.watch.accept(call.param('name'), call.who.name, call.body.tools);
    return store.watch.changes(call.param('name'));
  });
  api.on('rejectChanges', (call) => {
    store.watch.refuse(call.param('name'), call.who.name, call.body.tools);
    return store.watch.changes(call.param('name'));
  });
  api.on('serverHistory', (call) => ({ items: store.watch.history(call.param('name')) }));
}

/** A call that belongs to no run. */
const byHand = () => `/${newTraceId()}`;

/** Whoever starts a program on the machine can do there what the service can. @throws role_too_low */
export function requireRunner({ name, role }: Who): void {
  if (!mayUse(role, RUNS_PROGRAMS)) throw new PindroError('role_too_low', { name, role, needed: RUNS_PROGRAMS });
}

/** Why somebody cannot run a program here, or null. */
function whyNotRun({ role }: Who, policy: ProgramPolicy, program: Runnable): string | null {
  if (!mayUse(role, RUNS_PROGRAMS))
    return `It is a program on this machine; attaching one requires the role ${RUNS_PROGRAMS}, and yours is ${role}.`;
  try {
    policy.require(program);
    return null;
  } catch (error) {
    const { message, hint } = asPindroError(error);
    return `${message}. ${hint}`;
  }
}
