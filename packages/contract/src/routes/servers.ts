import { z } from 'zod';
import * as r from '../resources.js';
import * as o from './objects.js';
import type { Route } from './route.js';
import { json, jsonObject, secret } from './shapes.js';

const plainHeaders = z.record(
  z.string().regex(/^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/, 'must be the name of a header, such as X-Hut'),
  z
    .string()
    .regex(/^[\x20-\x7e\x80-\xff]*$/, 'must not hold line breaks')
    .max(4000),
);

const pasted = z.string().max(500_000).describe('As somebody has it');

/** Tool servers of somebody else. */
export const servers = {
  listServers: {
    method: 'GET',
    role: 'viewer',
    path: '/servers',
    about: 'All attached tool servers',
    query: o.searching,
    answer: z.object({ items: z.array(r.serverSummary) }),
  },
  getServer: {
    method: 'GET',
    role: 'viewer',
    path: '/servers/:name',
    about: 'One tool server with its tools',
    answer: r.serverDetail,
  },
  attachServer: {
    method: 'POST',
    role: 'builder',
    path: '/servers',
    about: 'Attaches a tool server; nothing is kept unless it answers',
    body: z.object({
      name: z.string(),
      url: z.string(),
      credential: z.string().optional(),
      secret: secret.optional().describe('Makes a bearer credential for it'),
      rules: jsonObject.optional(),
      speaks: r.speaks.optional().describe('Found by trying if left out'),
    }),
    answer: r.serverDetail,
  },
  understandServers: {
    method: 'POST',
    role: 'builder',
    path: '/servers/understand',
    about: "What servers a text speaks of: an address, a client's settings, a command line, an entry of a catalogue",
    body: z.object({ text: pasted }),
    answer: z.object({ items: z.array(r.understoodServer) }),
  },
  attachUnderstood: {
    method: 'POST',
    role: 'builder',
    path: '/servers/attach',
    about: 'Attaches one of the servers that a text speaks of, with the keys in it; nothing is kept unless it answers',
    body: z.object({
      text: pasted,
      at: z.number().int().min(0).default(0).describe('Which of those that were understood'),
      name: z.string().optional(),
      values: z.record(z.string(), secret).default({}).describe('What was missing, by the name of header or parameter'),
      secret: secret.optional().describe('A bearer key, where it wants one'),
    }),
    answer: r.serverDetail,
  },
  refreshServer: {
    method: 'POST',
    role: 'operator',
    path: '/servers/:name/refresh',
    about: 'Reads the tool list anew',
    answer: r.serverDetail.extend({ added: z.array(z.string()), removed: z.array(z.string()) }),
  },
  callServerTool: {
    method: 'POST',
    role: 'operator',
    path: '/servers/:name/tools/:tool/call',
    about: 'Calls one tool',
    body: z.object({ arguments: jsonObject.default({}) }),
    answer: z.object({ text: z.string(), data: json, isError: z.boolean(), milliseconds: z.number() }),
  },
  chatServer: {
    method: 'POST',
    role: 'operator',
    path: '/servers/:name/chat',
    about: 'Talks to a model that holds the tools of one server, without any flow',
    body: z.object({
      message: z.string().min(1),
      session: z.string().max(200).optional(),
      model: z.string().optional(),
    }),
    answer: r.liveEvent,
    stream: true,
  },
  detachServer: o.removing('/servers/:name', 'builder', 'Detaches a tool server'),
  renameServer: o.renaming('/servers/:name', 'builder', 'tool server'),
  copyServer: o.copying('/servers/:name', 'builder', 'Attaches the same tool server under another name'),
  serverUses: o.using('/servers/:name', 'tool server'),
  changeServer: {
    method: 'PUT',
    role: 'builder',
    path: '/servers/:name',
    about: 'Changes where a tool server is, what goes along and who supplies arguments; kept once it answers',
    body: z.object({
      url: z.string().optional(),
      credential: z.string().nullable().optional().describe('null: none goes along any more'),
      secret: secret.optional().describe('Makes a bearer credential for it, or renews the one it has'),
      also: z.array(z.string()).optional().describe('Further credentials that go along'),
      headers: plainHeaders.optional().describe("Headers that are nobody's secret; all of them anew"),
      rules: jsonObject.optional().describe('Rules by argument, for every tool that has it; all of them anew'),
      untested: z.boolean().default(false).describe('Also when it does not answer now'),
    }),
    answer: r.serverDetail,
  },
} as const satisfies Record<string, Route>;
