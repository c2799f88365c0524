import type { Client } from '@pindro/contract';
import type { Json, JsonObject } from '@pindro/core/browser';
import type { Service } from '@pindro/service';
import type { StandIns } from '../standins.js';
import type { FlakyServer } from './flaky-server.js';

/** What there is to break: the service, its address as a client has it, the stand-ins outside, and the key of a warden. */
export interface Ground {
  service: Service;
  api: Client;
  standIns: StandIns;
  moody: FlakyServer;
  wardenKey: string;
}

/** A set-up that is really broken, and the run that shows it. */
export interface Broken {
  /** The finding that its run must show. */
  code: string;
  /** What was broken, in a few words. */
  about: string;
  /** Breaks it, and runs it. @returns the run */
  run(ground: Ground): Promise<string>;
}

const LABEL = 'broken';

/** Makes a flow, publishes it where it is meant to be live, and runs it. @returns the run */
export async function runFlow(
  { api }: Ground,
  name: string,
  flow: { title: string; input?: JsonObject; steps: JsonObject; result?: Json; live?: boolean },
  input: JsonObject = {},
): Promise<string> {
  const { live = false, ...more } = flow;
  await saveFlow(api, name, more, live);
  const { run } = await api.runFlow({ name, body: { input, stage: live ? 'live' : 'draft' } });
  return run;
}

export async function saveFlow(api: Client, name: string, flow: JsonObject, live: boolean): Promise<void> {
  const document = { format: 'pindro/flow@1', name, labels: [LABEL], ...flow };
  await api.importFlow({ body: { document: JSON.stringify(document) } });
  if (live) await api.publishFlow({ name, body: { force: true } });
}

/** A flow of one agent with a message. */
export const agent = (title: string, config: JsonObject) => ({
  title,
  input: { type: 'object', required: ['message'], properties: { message: { type: 'string' } } },
  steps: { desk: { kind: 'agent', with: { message: '${ input.message }', limits: { rounds: 8 }, ...config } } },
  result: '${ steps.desk.answer }',
});

/** A connection to the simulated model, whose fault is named after the dash: `house-short`. */
export async function faultyModel(
  { api, standIns }: Ground,
  name: string,
  model: string,
  settings: JsonObject = {},
): Promise<void> {
  await api.addModel({
    body: { name, base: standIns.model.url, model, settings: { patience: '0s', ...settings }, skipTest: true },
  });
}
