import { randomBytes } from 'node:crypto';
import { createClient } from '@pindro/contract';
import { type Service, startService } from '@pindro/service';
import pc from 'picocolors';
import { safe } from '../output/safe.js';
import { type ServeOptions, serviceSettings } from '../serve/options.js';
import { commandLineKey, isGood, keepToOneself, showCalls, stopOnSignal } from '../serve/serve.js';
import { startFlakyServer } from './broken/flaky-server.js';
import { breakEverything } from './broken/index.js';
import { breakTheMachine } from './broken/machine.js';
import { firstLine, type StandIns, startLiftProcess, startStandIns } from './standins.js';
import type { Shown } from './state.js';
import { type Kept, readKept, writeKept } from './state.js';
import { attachTrails, buildWorld, makeRuns } from './world.js';

export interface DemoOptions extends ServeOptions {
  /** Breaks whatever can break, so that there is a run for each finding. */
  broken?: boolean;
}

/** Starts the stand-ins and the service with the made-up world, and stays until it is interrupted. */
export async function demo(options: DemoOptions, anyPort: boolean): Promise<void> {
  keepToOneself();
  const say = (text: string) => void (options.json || process.stderr.write(`${pc.dim(text)}\n`));
  const kept: Kept = readKept(options.data) ?? {
    ports: {},
    liftKey: randomBytes(24).toString('base64url'),
    wholesalerKey: randomBytes(24).toString('base64url'),
    keys: [],
    built: false,
  };
  say('starting the simulated services: lift company, mailbox, wholesaler, model, a misbehaving server …');
  const standIns = await startStandIns(options.data, kept);
  const moody = options.broken || kept.broken ? await startFlakyServer(kept) : null;
  const closeOutside = async () => {
    await Promise.all([standIns.close(), moody?.reworded.close(), moody?.stricter.close()]);
  };
  let service: Service;
  const fresh = options.broken && !kept.broken;
  const broken: Shown[] = kept.broken ?? [];
  try {
    if (fresh) {
      say('provoking failures of the service itself …');
      broken.push(...(await breakTheMachine(options.data, standIns)));
    }
    service = await start(options, standIns, anyPort ? (kept.ports.port ?? options.port) : undefined);
  } catch (error) {
    await closeOutside();
    throw error;
  }
  const apiKey = commandLineKey(service, options.data);
  if (!kept.built) {
    say('creating the huts, their flows and a few runs …');
    await buildWorld(service, standIns, kept);
    kept.failedRuns = await makeRuns(service, apiKey, kept);
    for (const one of kept.failedRuns)
      process.stderr.write(`${pc.yellow('!')} A failing example could not be created: ${safe(one)}\n`);
    kept.built = true;
  } else await moved(service, standIns);
  if (fresh && moody) {
    const api = createClient({ url: service.url, key: apiKey });
    broken.push(...(await breakEverything({ service, api, standIns, moody, wardenKey: kept.keys[0]!.key }, say)));
    kept.broken = broken;
  }
  kept.ports.port = Number(new URL(service.url).port);
  writeKept(options.data, kept);

  stopOnSignal(async () => {
    await service.close();
    await closeOutside();
  });
  if (options.json) process.stdout.write(`${JSON.stringify(contract(service, standIns, kept, apiKey))}\n`);
  else {
    process.stdout.write(welcome(service, kept));
    showCalls(service);
  }
}

/** The port of last time is taken up again, so that addresses in clients stay good; where it is taken, any will do. */
async function start(options: ServeOptions, standIns: StandIns, lastPort: number | undefined): Promise<Service> {
  const settings = {
    ...serviceSettings(options),
    mailbox: standIns.mailbox.url,
    smtp: `smtp://127.0.0.1:${standIns.mailbox.smtpPort}`,
    mailFrom: 'desk@alder-ridge.example',
  };
  if (lastPort === undefined) return startService(settings);
  return startService({ ...settings, port: lastPort }).catch((error: unknown) => {
    if ((error as { code?: string }).code !== 'port_taken') throw error;
    return startService({ ...settings, port: 0 });
  });
}

/** Where a stand-in had to take another port, its address follows. */
async function moved(service: Service, standIns: StandIns): Promise<void> {
  if (service.servers.names().includes('lift') && service.servers.summary('lift').url !== standIns.lift.url)
    await service.servers.editor.move('lift', standIns.lift.url);
  await attachTrails(service);
  if (service.models.names().includes('house') && service.models.summary('house').base !== standIns.model.url)
    service.models.move('house', standIns.model.url);
}

function contract(service: Service, standIns: StandIns, kept: Kept, apiKey: string): object {
  return {
    url: service.url,
    signIn: service.createSignInLink(),
    apiKey,
    endpoints: service.endpoints.names().map((name) => ({
      name,
      url: `${service.url}/mcp/${name}`,
      keys: name === 'huts' ? kept.keys.filter(({ key }) => isGood(service, key)) : [],
    })),
    flows: service.flows.drafts.names(),
    toolServers: [{ name: 'lift', url: standIns.lift.url, pid: standIns.lift.pid }],
    faulty: { url: standIns.faulty.url, older: standIns.faulty.older },
    models: service.models.names(),
    broken: kept.broken ?? [],
    failedRuns: kept.failedRuns ?? [],
  };
}

function welcome(service: Service, kept: Kept): string {
  const tries = [
    ['Chat with the desk', 'npx pindro chat warden-desk'],
    ['See why a load failed', 'npx pindro run list --flow send-load'],
    ['Connect a client', 'npx pindro endpoint connect huts'],
    ...(kept.broken ? [['See what can go wrong', 'npx pindro problem list']] : []),
  ];
  return [
    '',
    `${pc.green('✓')} The Alder Ridge Huts demo is running at ${pc.bold(service.url)}`,
    '',
    `  console   ${service.createSignInLink()}`,
    `  endpoint  ${service.url}/mcp/huts`,
    `  key       ${kept.keys[0]?.key}  ${pc.dim('(warden ines)')}`,
    '',
    '  To try, in another terminal:',
    ...tries.map(([what, command], index) => `  ${index + 1}. ${what!.padEnd(22)} ${pc.bold(command)}`),
    '',
    pc.dim('  Press Ctrl-C to stop everything; the data remains. Calls appear below.'),
    '',
    '',
  ].join('\n');
}

/** Starts the lift company again, at the address it had. */
export async function liftAgain(data: string): Promise<void> {
  const kept = readKept(data);
  if (!kept) throw new Error(`There is no demo in ${data}. Start it with "npm run demo".`);
  const child = startLiftProcess(data, kept, kept.ports.smtp ?? 0);
  const { url, pid } = await firstLine(child);
  process.stdout.write(`${JSON.stringify({ name: 'lift', url, pid })}\n`);
  stopOnSignal(async () => void child.kill('SIGTERM'));
}
