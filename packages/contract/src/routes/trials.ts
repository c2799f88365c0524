import { z } from 'zod';
import * as b from '../building-resources.js';
import * as r from '../resources.js';
import * as o from './objects.js';
import type { Route } from './route.js';
import { done, exact, json } from './shapes.js';

/** Trying a flow out: held results, samples, step by step. */
export const trials = {
  holdStep: {
    method: 'PUT',
    role: 'builder',
    path: '/flows/:name/held/:step',
    about: 'Holds the result that a step had in a run, for later tries of the draft',
    body: z.object({ run: z.string() }),
    answer: done,
  },
  releaseStep: {
    method: 'DELETE',
    role: 'builder',
    path: '/flows/:name/held/:step',
    about: 'Lets a held result go',
    answer: done,
  },
  flowTrials: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/trials',
    about: 'What trying a flow has kept: held results and inputs',
    answer: z.object({ held: z.array(b.heldStep), samples: z.array(b.sample) }),
  },
  keepSample: {
    method: 'PUT',
    role: 'operator',
    path: '/flows/:name/samples',
    about: 'Keeps an input under a name; one of that name is changed',
    body: z.object({
      name: z.string().max(60),
      input: json,
      fresh: z.boolean().default(false).describe('Refused where there is one of that name already'),
    }),
    answer: done,
  },
  getSample: {
    method: 'GET',
    role: 'viewer',
    path: '/flows/:name/samples/:sample',
    about: 'One kept input',
    answer: b.sample,
  },
  renameSample: o.renaming('/flows/:name/samples/:sample', 'operator', 'kept input'),
  copySample: o.copying('/flows/:name/samples/:sample', 'operator', 'Keeps the same input under another name'),
  removeSample: o.removing('/flows/:name/samples/:sample', 'operator', 'Removes a kept input'),
  stepOn: {
    method: 'POST',
    role: 'operator',
    path: '/runs/:id/step',
    about: 'Lets a run that is stepped through go on, or ends it',
    body: z.object({ go: z.boolean().default(true), path: z.string().optional() }),
    answer: done,
  },
  previewModel: {
    method: 'POST',
    role: 'operator',
    path: '/flows/:name/preview',
    about: 'What a step of the draft will send a model first; nothing is asked, recorded or remembered',
    body: z.object({
      step: z.string(),
      input: json.optional().describe('What the flow is given; or that of a run'),
      run: z.string().optional().describe('A run whose input and earlier steps are taken'),
      session: z.string().max(200).optional().describe('The conversation it would go on with'),
    }),
    answer: b.preview,
  },
  tryOut: {
    method: 'POST',
    role: 'operator',
    path: '/flows/:name/try/stream',
    about: 'Tries the draft out and tells what happens as it happens',
    body: z.object({
      input: json.default({}),
      trial: b.runTrial.prefault({}),
      session: z.string().max(200).optional(),
      exact,
    }),
    answer: r.liveEvent,
    stream: true,
  },
} as const satisfies Record<string, Route>;
