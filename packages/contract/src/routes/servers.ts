import { z } from 'zod';
import { program, programFingerprint } from '../program.js';
import { liveEvent } from '../resources.js';
import { serverLimits, serverNetwork } from '../server-limits.js';
import * as r from '../server-resources.js';
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

const names = z.array(z.string().max(200)).max(500).default([]);
const choice = {
  plain: names.describe('Values that are no secrets, by their names'),
  encrypt: names.describe('Values that are secrets although they do not look so, by their names'),
};
const attaching = z.object({
  text: pasted,
  ...choice,
  at: z.number().int().min(0).default(0).describe('Which of those that were understood'),
  name: z.string().optional(),
  values: z
    .record(z.string(), secret)
    .default({})
    .describe('What was missing, by the name of header, parameter, argument or variable'),
  secret: secret.optional().describe('A bearer key, where it wants one'),
  folder: z.string().max(4000).optional().describe('Where a program works, if the text does not say so'),
  untested: z.boolean().default(false).describe('Keeps it although it does not answer now'),
});

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
      url: z.string().optional().describe('Where it is; or else a program'),
      program: program.optional().describe('A program of this machine; that takes the role owner'),
      credential: z.string().optional(),
      secret: secret.optional().describe('Makes a bearer credential for it'),
      rules: jsonObject.optional(),
      speaks: r.speaks.optional().describe('Found by trying if left out'),
      limits: serverLimits.optional(),
      network: serverNetwork.optional(),
      watch: r.watch.optional(),
    }),
    answer: r.serverDetail,
  },
  understandServers: {
    method: 'POST',
    role: 'builder',
    path: '/servers/understand',
    about: "What servers a text speaks of: an address, a client's settings, a command line, an entry of a catalogue",
    body: z.object({ text: pasted, ...choice }),
    answer: z.object({ items: z.array(r.understoodServer) }),
  },
  searchCatalogue: {
    method: 'POST',
    role: 'builder',
    path: '/servers/catalogue',
    about: "Servers of a catalogue in the open registry's server.json format, with these words in them",
    body: z.object({
      address: z.string().optional().describe('Where the catalogue is; or else its text'),
      text: z.string().max(4_000_000).optional(),
      words: z.string().max(200).default(''),
    }),
    answer: z.object({
      items: z.array(
        z.object({
          name: z.string(),
          title: z.string(),
          description: z.string(),
          version: z.string(),
          text: z.string().describe('The entry by itself, to be attached'),
        }),
      ),
      more: z.number().describe('How many more there are'),
    }),
  },
  attachUnderstood: {
    method: 'POST',
    role: 'builder',
    path: '/servers/attach',
    about: 'Attaches one of the servers that a text speaks of, with the keys in it; nothing is kept unless it answers',
    body: attaching,
    answer: r.serverDetail,
  },
  attachWatched: {
    method: 'POST',
    role: 'builder',
    path: '/servers/attach/watched',
    about: 'The same, told part by part as it happens',
    body: attaching,
    answer: r.testEvent,
    stream: true,
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
    answer: z.object({
      text: z.string(),
      data: json,
      isError: z.boolean(),
      milliseconds: z.number(),
      supplied: z.array(z.string()).describe('Arguments that argument rules of the server supplied'),
    }),
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
    answer: liveEvent,
    stream: true,
  },
  allowProgram: {
    method: 'POST',
    role: 'owner',
    path: '/servers/:name/allow',
    about: 'Allows the program of a tool server to run, exactly as reviewed',
    body: programFingerprint.describe('What was reviewed, from programPermission'),
    answer: r.serverDetail,
  },
  toolReview: {
    method: 'GET',
    role: 'viewer',
    path: '/tool-review',
    about: 'Returns the model that reviews new and changed tools, and its usage',
    answer: r.toolReviewSettings,
  },
  chooseToolReview: {
    method: 'PUT',
    role: 'owner',
    path: '/tool-review',
    about: 'Chooses the model that reviews new and changed tools. It can hold a tool back but never releases one',
    body: z.object({ model: z.string().nullable() }),
    answer: r.toolReviewSettings,
  },
  programPermission: {
    method: 'GET',
    role: 'owner',
    path: '/servers/:name/program',
    about: 'What a tool server runs on the machine, with the SHA-256 of its files, and what was allowed before',
    answer: r.programPermission,
  },
  serverLog: {
    method: 'GET',
    role: 'viewer',
    path: '/servers/:name/log',
    about: 'What happened with a tool server lately: what its program wrote, what it told, what was done with it',
    query: z.object({ after: z.coerce.number().int().min(0).default(0).describe('Only lines after this number') }),
    answer: z.object({ items: z.array(r.serverLogLine) }),
  },
  serverActivity: {
    method: 'GET',
    role: 'viewer',
    path: '/servers/:name/activity',
    about: 'How calls of the tools of a server went lately',
    query: z.object({ hours: z.coerce.number().int().min(1).max(336).default(24) }),
    answer: r.serverActivity,
  },
  listServerSamples: {
    method: 'GET',
    role: 'viewer',
    path: '/servers/:name/samples',
    about: 'Calls by hand that were kept',
    answer: z.object({ items: z.array(r.serverSample) }),
  },
  keepServerSample: {
    method: 'POST',
    role: 'operator',
    path: '/servers/:name/samples',
    about: 'Keeps the arguments of a call, to do it again',
    body: z.object({ tool: z.string(), name: z.string().min(1).max(80), arguments: jsonObject }),
    answer: z.object({ items: z.array(r.serverSample) }),
  },
  forgetServerSample: {
    method: 'DELETE',
    role: 'operator',
    path: '/servers/:name/samples/:id',
    about: 'Forgets one of them',
    answer: z.object({ items: z.array(r.serverSample) }),
  },
  serverChanges: {
    method: 'GET',
    role: 'viewer',
    path: '/servers/:name/changes',
    about: 'How the tools of a server differ from what was accepted',
    answer: r.serverChanges,
  },
  acceptChanges: {
    method: 'POST',
    role: 'builder',
    path: '/servers/:name/changes/accept',
    about: 'Takes tools of a server as they are now',
    body: z.object({ tools: z.array(z.string()).optional().describe('All that wait if left out') }),
    answer: r.serverChanges,
  },
  refuseChanges: {
    method: 'POST',
    role: 'builder',
    path: '/servers/:name/changes/refuse',
    about: 'Would not have tools of a server as they are now: they stay held back',
    body: z.object({ tools: z.array(z.string()).optional().describe('All that wait if left out') }),
    answer: r.serverChanges,
  },
  serverLists: {
    method: 'GET',
    role: 'viewer',
    path: '/servers/:name/lists',
    about: 'The tool lists that a server had, the latest first, each with how it differs from the one before',
    answer: z.object({ items: z.array(r.serverList) }),
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
      program: program.optional().describe('The program that it is; that takes the role owner'),
      credential: z.string().nullable().optional().describe('null: none goes along any more'),
      secret: secret.optional().describe('Makes a bearer credential for it, or renews the one it has'),
      also: z.array(z.string()).optional().describe('Further credentials that go along'),
      headers: plainHeaders.optional().describe("Headers that are nobody's secret; all of them anew"),
      rules: jsonObject.optional().describe('Rules by argument, for every tool that has it; all of them anew'),
      limits: serverLimits.optional().describe('How long it may take and how much is asked of it; all of them anew'),
      network: serverNetwork.optional().describe('The way to it; all of it anew'),
      watch: r.watch.optional(),
      on: z.boolean().optional().describe('Off: it is neither asked nor called, and keeps its settings'),
      untested: z.boolean().default(false).describe('Also when it does not answer now'),
    }),
    answer: r.serverDetail,
  },
} as const satisfies Record<string, Route>;
