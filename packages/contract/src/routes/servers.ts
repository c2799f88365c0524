import { z } from 'zod';
import { program, programFingerprint } from '../program.js';
import { resourceRoutes } from '../resource/routes.js';
import { server } from '../resource/server.js';
import { serverLimits, serverNetwork } from '../server-limits.js';
import * as r from '../server-resources.js';
import { streamEvent } from '../stream.js';
import * as o from './objects.js';
import type { Route } from './route.js';
import { json, jsonObject, secret } from './shapes.js';

const plainHeaders = z.record(
  z.string().regex(/^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/, 'must be the name of a header, such as X-Hut'),
  z
    .string()
    .regex(/^[\x20-\x7e\x80-\xff]*$/, 'must not contain line breaks')
    .max(4000),
);

const pasted = z.string().max(500_000).describe('The text as it was pasted');

const names = z.array(z.string().max(200)).max(500).default([]);
const choice = {
  plain: names.describe('Names of values that are not secret'),
  encrypt: names.describe('Names of values that are secret although they do not look like it'),
};
const attaching = z.object({
  text: pasted,
  ...choice,
  at: z.number().int().min(0).default(0).describe('Index of the recognized server'),
  name: z.string().optional(),
  values: z
    .record(z.string(), secret)
    .default({})
    .describe('Missing values, by the name of the header, parameter, argument or variable'),
  secret: secret.optional().describe('Bearer key, if it requires one'),
  folder: z.string().max(4000).optional().describe('Working directory of a program, if the text does not contain it'),
  skipTest: z.boolean().default(false).describe('Saves it even if it does not respond'),
});

/** Tool servers of somebody else. */
export const servers = {
  listServers: {
    method: 'GET',
    role: 'viewer',
    path: '/servers',
    about: 'Lists attached tool servers',
    query: o.searching,
    answer: z.object({ items: z.array(r.serverSummary) }),
  },
  getServer: {
    method: 'GET',
    role: 'viewer',
    path: '/servers/:name',
    about: 'Returns one tool server with its tools',
    answer: r.serverDetail,
  },
  attachServer: {
    method: 'POST',
    role: 'builder',
    path: '/servers',
    about: 'Attaches a tool server; nothing is saved unless it responds',
    body: z.object({
      name: z.string(),
      url: z.string().optional().describe('Its address; otherwise a program'),
      program: program.optional().describe('A program on this machine; requires the role owner'),
      credential: z.string().optional(),
      secret: secret.optional().describe('Creates a bearer credential for it'),
      rules: jsonObject.optional(),
      speaks: r.speaks.optional().describe('Detected by default'),
      limits: serverLimits.optional(),
      network: serverNetwork.optional(),
      watch: r.watch.optional(),
    }),
    answer: r.serverDetail,
  },
  recognizeServers: {
    method: 'POST',
    role: 'builder',
    path: '/servers/recognize',
    about: "Recognizes servers in a text: an address, a client's settings, a command line, a catalogue entry",
    body: z.object({ text: pasted, ...choice }),
    answer: z.object({ items: z.array(r.recognizedServerSummary) }),
  },
  searchCatalogue: {
    method: 'POST',
    role: 'builder',
    path: '/servers/catalogue',
    about: "Lists servers of a catalogue in the open registry's server.json format that match the words",
    body: z.object({
      address: z.string().optional().describe('Address of the catalogue; otherwise its text'),
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
          text: z.string().describe('The entry alone, ready to attach'),
        }),
      ),
      more: z.number().describe('Number of further matches'),
    }),
  },
  attachRecognized: {
    method: 'POST',
    role: 'builder',
    path: '/servers/attach',
    about: 'Attaches one of the servers recognized in a text, with its keys; nothing is saved unless it responds',
    body: attaching,
    answer: r.serverDetail,
  },
  attachWithProgress: {
    method: 'POST',
    role: 'builder',
    path: '/servers/attach/stream',
    about: 'Same as above, streaming each stage',
    body: attaching,
    answer: r.testEvent,
    stream: true,
  },
  refreshServer: {
    method: 'POST',
    role: 'operator',
    path: '/servers/:name/refresh',
    about: 'Refreshes the tool list',
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
      supplied: z.array(z.string()).describe('Arguments supplied by argument rules of the server'),
    }),
  },
  chatServer: {
    method: 'POST',
    role: 'operator',
    path: '/servers/:name/chat',
    about: 'Chats with a model that has the tools of one server, without a flow',
    body: z.object({
      message: z.string().min(1),
      session: z.string().max(200).optional(),
      model: z.string().optional(),
    }),
    answer: streamEvent,
    stream: true,
  },
  allowProgram: {
    method: 'POST',
    role: 'owner',
    path: '/servers/:name/allow',
    about: 'Allows the program of a tool server to run, exactly as reviewed',
    body: programFingerprint.describe('The reviewed program, from programPermission'),
    answer: r.serverDetail,
  },
  toolReview: {
    method: 'GET',
    role: 'viewer',
    path: '/tool-review',
    about: 'Returns the model that reviews new and changed tools, and its usage',
    answer: r.toolReviewSettings,
  },
  setToolReview: {
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
    about: 'Returns the program of a tool server with the SHA-256 of its files, and what was allowed before',
    answer: r.programPermission,
  },
  serverLog: {
    method: 'GET',
    role: 'viewer',
    path: '/servers/:name/log',
    about: 'Returns recent activity of a tool server: program output, notifications, actions',
    query: z.object({ after: z.coerce.number().int().min(0).default(0).describe('Only lines after this number') }),
    answer: z.object({ items: z.array(r.serverLogLine) }),
  },
  serverActivity: {
    method: 'GET',
    role: 'viewer',
    path: '/servers/:name/activity',
    about: 'Returns statistics of recent calls to the tools of a server',
    query: z.object({ hours: z.coerce.number().int().min(1).max(336).default(24) }),
    answer: r.serverActivity,
  },
  listServerSamples: {
    method: 'GET',
    role: 'viewer',
    path: '/servers/:name/samples',
    about: 'Lists saved manual calls',
    answer: z.object({ items: z.array(r.serverSample) }),
  },
  saveServerSample: {
    method: 'POST',
    role: 'operator',
    path: '/servers/:name/samples',
    about: 'Saves the arguments of a call for reuse',
    body: z.object({ tool: z.string(), name: z.string().min(1).max(80), arguments: jsonObject }),
    answer: z.object({ items: z.array(r.serverSample) }),
  },
  deleteServerSample: {
    method: 'DELETE',
    role: 'operator',
    path: '/servers/:name/samples/:id',
    about: 'Deletes a saved call',
    answer: z.object({ items: z.array(r.serverSample) }),
  },
  serverChanges: {
    method: 'GET',
    role: 'viewer',
    path: '/servers/:name/changes',
    about: 'Compares the tools of a server with the accepted ones',
    answer: r.serverChanges,
  },
  acceptChanges: {
    method: 'POST',
    role: 'builder',
    path: '/servers/:name/changes/accept',
    about: 'Accepts tools of a server in their present form',
    body: z.object({ tools: z.array(z.string()).optional().describe('All pending ones by default') }),
    answer: r.serverChanges,
  },
  rejectChanges: {
    method: 'POST',
    role: 'builder',
    path: '/servers/:name/changes/reject',
    about: 'Rejects tools of a server in their present form: they stay on hold',
    body: z.object({ tools: z.array(z.string()).optional().describe('All pending ones by default') }),
    answer: r.serverChanges,
  },
  serverHistory: {
    method: 'GET',
    role: 'viewer',
    path: '/servers/:name/history',
    about: 'Lists the previous tool lists of a server, most recent first, each with its changes',
    answer: z.object({ items: z.array(r.serverList) }),
  },
  ...resourceRoutes(server),
  updateServer: {
    method: 'PUT',
    role: 'builder',
    path: '/servers/:name',
    about: 'Changes the address, credentials and argument rules of a tool server; saved once it responds',
    body: z.object({
      url: z.string().optional(),
      program: program.optional().describe('Its program; requires the role owner'),
      credential: z.string().nullable().optional().describe('null removes it'),
      secret: secret.optional().describe('Creates a bearer credential for it, or renews the present one'),
      also: z.array(z.string()).optional().describe('Additional credentials to send'),
      headers: plainHeaders.optional().describe('Headers without secrets; replaces all of them'),
      rules: jsonObject.optional().describe('Argument rules for every tool with that argument; replaces all of them'),
      limits: serverLimits.optional().describe('Timeouts and limits; replaces all of them'),
      network: serverNetwork.optional().describe('Connection settings; replaces all of them'),
      watch: r.watch.optional(),
      on: z.boolean().optional().describe('Off: the server is neither contacted nor called, and keeps its settings'),
      skipTest: z.boolean().default(false).describe('Even if it does not respond'),
    }),
    answer: r.serverDetail,
  },
} as const satisfies Record<string, Route>;
