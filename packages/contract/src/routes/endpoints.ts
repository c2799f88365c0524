import { z } from 'zod';
import * as r from '../resources.js';
import * as s from '../serving-resources.js';
import * as o from './objects.js';
import type { Route } from './route.js';
import { done, json, jsonObject, written } from './shapes.js';

/** Endpoints: what stands on them, how it is worded, who uses them. */
export const endpoints = {
  listEndpoints: {
    method: 'GET',
    role: 'viewer',
    path: '/endpoints',
    about: 'All endpoints',
    query: o.searching,
    answer: z.object({ items: z.array(r.endpointSummary) }),
  },
  getEndpoint: {
    method: 'GET',
    role: 'viewer',
    path: '/endpoints/:name',
    about: 'One endpoint with its tools and keys',
    answer: r.endpointDetail,
  },
  putEndpoint: {
    method: 'POST',
    role: 'builder',
    path: '/endpoints',
    about: 'Makes an endpoint by its document; one that is there is replaced only where that is asked for',
    body: written.extend({ replace: z.boolean().default(false) }),
    answer: r.endpointDetail,
  },
  connectEndpoint: {
    method: 'GET',
    role: 'viewer',
    path: '/endpoints/:name/connect',
    about: 'Settings for each shape of client, with a gap for the key',
    answer: z.object({ settings: z.array(r.clientSettings) }),
  },
  changeEndpoint: {
    method: 'POST',
    role: 'builder',
    path: '/endpoints/:name',
    about: 'Changes what an endpoint says of itself and who may use it',
    body: z.object({
      title: z.string().optional(),
      description: z.string().optional(),
      instructions: z.string().optional(),
      icon: z.string().optional().describe('An https address, or a data URI; empty takes it away'),
      access: z.enum(['keys', 'open']).optional(),
      on: z.boolean().optional().describe('Off: its clients are told so, and nothing of it is lost'),
      bodyLimit: z.string().optional().describe('The largest message taken from a client, such as 4MiB'),
    }),
    answer: r.endpointDetail,
  },
  renameEndpoint: {
    method: 'POST',
    role: 'builder',
    path: '/endpoints/:name/rename',
    about: 'Gives an endpoint another name; its old address keeps answering',
    body: z.object({ to: z.string() }),
    answer: r.endpointDetail,
  },
  removeEndpoint: o.removing('/endpoints/:name', 'builder', 'Removes an endpoint and ends its sessions'),
  copyEndpoint: o.copying('/endpoints/:name', 'builder', 'Makes an endpoint with the same tools and words'),
  endpointUses: o.using('/endpoints/:name', 'endpoint'),
  putTools: {
    method: 'POST',
    role: 'builder',
    path: '/endpoints/:name/tools',
    about: 'Puts flows and single tools of servers on an endpoint, or whole servers with all they will ever have',
    body: z.object({
      tools: z
        .record(z.string(), jsonObject)
        .default({})
        .describe('By the name a client sees: {flow} or {server, tool}'),
      servers: z.record(z.string(), jsonObject).default({}).describe('Whole servers, by name: {use, arguments}'),
    }),
    answer: r.endpointDetail,
  },
  moveToolbox: {
    method: 'POST',
    role: 'builder',
    path: '/flows/:name/toolbox',
    about: "Moves the tools of an agent's toolbox onto an endpoint, which then stands in the toolbox as one row",
    body: z.object({
      step: z.string().describe('JSON Pointer of the agent step in the flow, such as /steps/desk'),
      endpoint: z.string().describe('Made when it is not there yet'),
    }),
    answer: r.endpointDetail,
  },
  listTools: {
    method: 'GET',
    role: 'viewer',
    path: '/tools',
    about: 'All tools that there are to choose among: of servers, of endpoints, and flows',
    answer: z.object({ items: z.array(s.toolChoice) }),
  },
  reviewToolbox: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/toolbox/review',
    about: "What is wrong with an agent's toolbox for the model that reads it, in the draft",
    query: z.object({ step: z.string().describe('JSON Pointer of the agent step in the flow, such as /steps/desk') }),
    answer: s.toolboxReview,
  },
  mendToolbox: {
    method: 'POST',
    role: 'builder',
    path: '/flows/:name/toolbox/review',
    about: 'Applies what the review of a toolbox proposes to the draft; the words change for this agent alone',
    body: z.object({
      step: z.string(),
      remarks: z.array(z.string()).optional().describe('Ids; all that can be applied if left out'),
    }),
    answer: s.toolboxReview.extend({ applied: z.array(z.string()) }),
  },
  wordTool: {
    method: 'PUT',
    role: 'builder',
    path: '/endpoints/:name/tools/:tool',
    about: 'Changes how a tool reads on this endpoint; null takes a change back',
    body: z.object({
      name: z.string().optional(),
      title: z.string().nullable().optional(),
      description: z.string().nullable().optional(),
      arguments: z.record(z.string(), json.nullable()).optional().describe('Rules by argument'),
      annotations: z.record(z.string(), z.boolean().nullable()).optional(),
      returns: jsonObject.nullable().optional().describe('JSON Schema of the result'),
      icon: z.string().nullable().optional().describe('An https address, or a data URI of a PNG, JPEG, WebP or SVG'),
      credential: z
        .enum(['workspace', 'caller'])
        .optional()
        .describe('For a tool of a server: whose credential goes along'),
    }),
    answer: r.endpointDetail,
  },
  takeTool: {
    method: 'DELETE',
    role: 'builder',
    path: '/endpoints/:name/tools/:tool',
    about: 'Takes a tool, or a whole server of that name, off an endpoint',
    answer: r.endpointDetail,
  },
  reviewEndpoint: {
    method: 'GET',
    role: 'viewer',
    path: '/endpoints/:name/review',
    about: 'What is wrong with the tool list for the model that reads it, and the list as it is sent',
    query: z.object({ stage: r.stage.default('live') }),
    answer: s.review,
  },
  applyRemarks: {
    method: 'POST',
    role: 'builder',
    path: '/endpoints/:name/review',
    about: 'Applies what the review proposes',
    body: z.object({ remarks: z.array(z.string()).optional().describe('Ids; all that can be applied if left out') }),
    answer: s.review.extend({ applied: z.array(z.string()) }),
  },
  chooseTool: {
    method: 'POST',
    role: 'operator',
    path: '/endpoints/:name/choose',
    about: 'Which tool a model would call for a sentence, and with what; nothing is called',
    body: z.object({ message: z.string().min(1), model: z.string() }),
    answer: z.object({
      text: z.string(),
      calls: z.array(z.object({ tool: z.string(), arguments: jsonObject })),
      run: z.string(),
    }),
  },
  endpointUsage: {
    method: 'GET',
    role: 'viewer',
    path: '/endpoints/:name/usage',
    about: 'Who used what, and how it went',
    query: z.object({ days: z.coerce.number().int().min(1).max(90).default(7) }),
    answer: s.usage,
  },
  endpointSessions: {
    method: 'GET',
    role: 'viewer',
    path: '/endpoints/:name/sessions',
    about: 'Sessions that are open now, and what happened lately',
    answer: z.object({ items: z.array(s.openSession), happened: z.array(s.happening) }),
  },
  endSession: {
    method: 'DELETE',
    role: 'operator',
    path: '/sessions/:id',
    about: 'Ends a session of a client',
    answer: done,
  },
  testEndpoint: {
    method: 'POST',
    role: 'operator',
    path: '/endpoints/:name/test',
    about: 'Connects as a stranger would and says which part fails',
    body: z.object({
      key: z.string().optional().describe('As it would stand in the settings; without one a key is made for the test'),
      url: z.string().optional().describe('The address as it stands in the settings, where that is another'),
    }),
    answer: s.selfTest,
  },
} as const satisfies Record<string, Route>;
