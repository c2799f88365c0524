import { z } from 'zod';
import * as r from '../resources.js';
import type { Route } from './route.js';
import { done, json, jsonObject, secret } from './shapes.js';

/** Tool servers of somebody else. */
export const servers = {
  listServers: {
    method: 'GET',
    role: 'viewer',
    path: '/servers',
    about: 'All attached tool servers',
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
  detachServer: {
    method: 'DELETE',
    role: 'builder',
    path: '/servers/:name',
    about: 'Detaches a tool server that nothing uses',
    answer: done,
  },
} as const satisfies Record<string, Route>;
