import { z } from 'zod';
import { endpoint } from '../resource/endpoint.js';
import { resourceRoutes } from '../resource/routes.js';
import * as r from '../resources.js';
import * as s from '../serving-resources.js';
import * as o from './objects.js';
import type { Route } from './route.js';
import { done, json, jsonObject, written } from './shapes.js';

/** Endpoints: their tools, overrides and usage. */
export const endpoints = {
  listEndpoints: {
    method: 'GET',
    role: 'viewer',
    path: '/endpoints',
    about: 'Lists all endpoints',
    query: o.searching,
    answer: z.object({ items: z.array(r.endpointSummary) }),
  },
  getEndpoint: {
    method: 'GET',
    role: 'viewer',
    path: '/endpoints/:name',
    about: 'Returns one endpoint with its tools and keys',
    answer: r.endpointDetail,
  },
  createEndpoint: {
    method: 'POST',
    role: 'builder',
    path: '/endpoints',
    about: 'Creates an endpoint from a document; replaces an existing one only on request',
    body: written.extend({ replace: z.boolean().default(false) }),
    answer: r.endpointDetail,
  },
  connectEndpoint: {
    method: 'GET',
    role: 'viewer',
    path: '/endpoints/:name/connect',
    about: 'Client settings in several formats, with a placeholder for the key',
    answer: z.object({ settings: z.array(r.clientSettings) }),
  },
  updateEndpoint: {
    method: 'POST',
    role: 'builder',
    path: '/endpoints/:name',
    about: 'Changes the description of an endpoint and who may use it',
    body: z.object({
      title: z.string().optional(),
      description: z.string().optional(),
      instructions: z.string().optional(),
      icon: z.string().optional().describe('An https address or a data URI; an empty value removes it'),
      access: z.enum(['keys', 'open']).optional(),
      on: z.boolean().optional().describe('Off: clients are notified, and nothing is lost'),
      bodyLimit: z.string().optional().describe('Maximum size of a client message, such as 4MiB'),
    }),
    answer: r.endpointDetail,
  },
  renameEndpoint: {
    method: 'POST',
    role: 'builder',
    path: '/endpoints/:name/rename',
    about: 'Renames an endpoint; its old address keeps working',
    body: z.object({ to: z.string() }),
    answer: r.endpointDetail,
  },
  ...resourceRoutes(endpoint),
  addTools: {
    method: 'POST',
    role: 'builder',
    path: '/endpoints/:name/tools',
    about: 'Adds flows and single tools of servers to an endpoint, or whole servers including future tools',
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
    about: "Moves the tools of an agent's toolbox to an endpoint, which replaces them in the toolbox as one row",
    body: z.object({
      step: z.string().describe('JSON Pointer of the agent step in the flow, such as /steps/desk'),
      endpoint: z.string().describe('Created if it does not exist'),
    }),
    answer: r.endpointDetail,
  },
  listTools: {
    method: 'GET',
    role: 'viewer',
    path: '/tools',
    about: 'Lists all available tools: of servers, of endpoints, and flows',
    answer: z.object({ items: z.array(s.toolChoice) }),
  },
  reviewToolbox: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/toolbox/review',
    about: "Reviews an agent's toolbox in the draft from the perspective of the model",
    query: z.object({ step: z.string().describe('JSON Pointer of the agent step in the flow, such as /steps/desk') }),
    answer: s.toolboxReview,
  },
  applyToolboxReview: {
    method: 'POST',
    role: 'builder',
    path: '/flows/:name/toolbox/review',
    about: 'Applies suggestions of a toolbox review to the draft; the changes affect this agent only',
    body: z.object({
      step: z.string(),
      suggestions: z.array(z.string()).optional().describe('IDs; all applicable ones by default'),
    }),
    answer: s.toolboxReview.extend({ applied: z.array(z.string()) }),
  },
  describeTool: {
    method: 'PUT',
    role: 'builder',
    path: '/endpoints/:name/tools/:tool',
    about: 'Changes how a tool is presented on this endpoint; null resets a change',
    body: z.object({
      name: z.string().optional(),
      title: z.string().nullable().optional(),
      description: z.string().nullable().optional(),
      arguments: z.record(z.string(), json.nullable()).optional().describe('Argument rules'),
      annotations: z.record(z.string(), z.boolean().nullable()).optional(),
      returns: jsonObject.nullable().optional().describe('JSON Schema of the result'),
      icon: z.string().nullable().optional().describe('An https address, or a data URI of a PNG, JPEG, WebP or SVG'),
      credential: z
        .enum(['workspace', 'caller'])
        .optional()
        .describe('For a tool of a server: whose credential is sent'),
    }),
    answer: r.endpointDetail,
  },
  removeTool: {
    method: 'DELETE',
    role: 'builder',
    path: '/endpoints/:name/tools/:tool',
    about: 'Removes a tool, or all tools of a server of that name, from an endpoint',
    answer: r.endpointDetail,
  },
  reviewEndpoint: {
    method: 'GET',
    role: 'viewer',
    path: '/endpoints/:name/review',
    about: 'Reviews the tool list from the perspective of the model, and returns the list as sent',
    query: z.object({ stage: r.stage.default('live') }),
    answer: s.review,
  },
  applyReview: {
    method: 'POST',
    role: 'builder',
    path: '/endpoints/:name/review',
    about: 'Applies suggestions of the review',
    body: z.object({ suggestions: z.array(z.string()).optional().describe('IDs; all applicable ones by default') }),
    answer: s.review.extend({ applied: z.array(z.string()) }),
  },
  selectTool: {
    method: 'POST',
    role: 'operator',
    path: '/endpoints/:name/select-tool',
    about: 'Returns which tool a model would call for a prompt, and with what arguments; nothing is called',
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
    about: 'Returns usage and outcomes by client',
    query: z.object({ days: z.coerce.number().int().min(1).max(90).default(7) }),
    answer: s.usage,
  },
  endpointSessions: {
    method: 'GET',
    role: 'viewer',
    path: '/endpoints/:name/sessions',
    about: 'Lists open sessions and recent activity',
    answer: z.object({ items: z.array(s.openSession), happened: z.array(s.endpointEvent) }),
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
    about: 'Connects like an external client and reports what fails',
    body: z.object({
      key: z.string().optional().describe('Key as it is in the settings; without one, a temporary key is issued'),
      url: z.string().optional().describe('Address in the settings, if it differs'),
    }),
    answer: s.selfTest,
  },
} as const satisfies Record<string, Route>;
