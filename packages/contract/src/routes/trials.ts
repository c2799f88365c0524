import { z } from 'zod';
import * as b from '../building-resources.js';
import { resourceRoutes } from '../resource/routes.js';
import { sample } from '../resource/sample.js';
import { streamEvent } from '../stream.js';
import type { Route } from './route.js';
import { capture, done, json } from './shapes.js';

/** Trying a flow out: held results, samples, step by step. */
export const trials = {
  stubStep: {
    method: 'PUT',
    role: 'builder',
    path: '/flows/:name/stubs/:step',
    about: 'Stubs the result of a step from a run for later trials of the draft',
    body: z.object({ run: z.string() }),
    answer: done,
  },
  removeStub: {
    method: 'DELETE',
    role: 'builder',
    path: '/flows/:name/stubs/:step',
    about: 'Removes a stubbed result',
    answer: done,
  },
  flowTrials: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/trials',
    about: 'Lists stubbed results and saved inputs of a flow',
    answer: z.object({ held: z.array(b.heldStep), samples: z.array(b.sample) }),
  },
  saveSample: {
    method: 'PUT',
    role: 'operator',
    path: '/flows/:name/samples',
    about: 'Saves an input under a name, or updates it',
    body: z.object({
      name: z.string().max(60),
      input: json,
      fresh: z.boolean().default(false).describe('Rejected if one of that name already exists'),
    }),
    answer: done,
  },
  getSample: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/samples/:sample',
    about: 'Returns one saved input',
    answer: b.sample,
  },
  ...resourceRoutes(sample),
  continueRun: {
    method: 'POST',
    role: 'operator',
    path: '/runs/:id/continue',
    about: 'Continues a paused run, or ends it',
    body: z.object({ go: z.boolean().default(true), path: z.string().optional() }),
    answer: done,
  },
  previewModel: {
    method: 'POST',
    role: 'operator',
    path: '/flows/:name/preview',
    about: 'Previews the first model request of a draft step, without sending it',
    body: z.object({
      step: z.string(),
      input: json.optional().describe('Input of the flow; or that of a run'),
      run: z.string().optional().describe('Run that supplies the input and earlier steps'),
      session: z.string().max(200).optional().describe('Conversation to continue'),
    }),
    answer: b.preview,
  },
  runDraftTrial: {
    method: 'POST',
    role: 'operator',
    path: '/flows/:name/trial/stream',
    about: 'Runs the draft and streams its events',
    body: z.object({
      input: json.default({}),
      trial: b.runTrial.prefault({}),
      session: z.string().max(200).optional(),
      capture,
    }),
    answer: streamEvent,
    stream: true,
  },
} as const satisfies Record<string, Route>;
