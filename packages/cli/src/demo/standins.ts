import { type ChildProcess, spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import {
  type FaultyServer,
  type Mailbox,
  type Message,
  type Model,
  startFaultyServer,
  startMailbox,
  startModel,
  startWholesaler,
  type Wholesaler,
} from '@pindro/standins';
import type { Kept } from './state.js';

export interface StandIns {
  mailbox: Mailbox;
  model: Model;
  wholesaler: Wholesaler;
  lift: { url: string; pid: number };
  /** Does whatever can go wrong, for whoever wants to see what becomes of it. */
  faulty: FaultyServer;
  close(): Promise<void>;
}

/** Starts the outside services, each on the port it had before where that is free. */
export async function startStandIns(data: string, kept: Kept): Promise<StandIns> {
  const { ports } = kept;
  const file = join(data, 'mailbox.json');
  mkdirSync(data, { recursive: true });
  const messages = readList<Message>(data, 'mailbox.json');
  const mailbox: Mailbox = await startMailbox({
    smtpPort: ports.smtp ?? 0,
    httpPort: ports.mailbox ?? 0,
    messages,
    onMessage: () => writeFileSync(file, JSON.stringify(mailbox.messages)),
  });
  const model = await startModel({ port: ports.model ?? 0 });
  const wholesaler = await startWholesaler({
    port: ports.wholesaler ?? 0,
    key: kept.wholesalerKey,
    orders: readList(data, 'orders.json'),
    onOrder: (orders) => writeFileSync(join(data, 'orders.json'), JSON.stringify(orders)),
  });
  const faulty = await startFaultyServer({ port: ports.faulty ?? 0 });
  const child = startLiftProcess(data, kept, mailbox.smtpPort);
  const lift = await firstLine(child);
  Object.assign(ports, {
    smtp: mailbox.smtpPort,
    mailbox: portOf(mailbox.url),
    model: portOf(model.url),
    wholesaler: portOf(wholesaler.url),
    lift: portOf(lift.url),
    faulty: portOf(faulty.url),
  });
  return {
    mailbox,
    model,
    wholesaler,
    lift,
    faulty,
    close: async () => {
      child.kill('SIGTERM');
      await mailbox.close();
      await model.close();
      await wholesaler.close();
      await faulty.close();
    },
  };
}

/** What a stand-in kept the last time. */
function readList<T>(data: string, name: string): T[] {
  const file = join(data, name);
  return existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as T[]) : [];
}

/** The lift company runs as a process of its own, so that it can be killed. */
export function startLiftProcess(data: string, kept: Kept, smtp: number): ChildProcess {
  const main = fileURLToPath(new URL('./lift/main.js', import.meta.resolve('@pindro/standins')));
  const args = ['--port', String(kept.ports.lift ?? 0), '--file', join(data, 'lift.json'), '--smtp', String(smtp)];
  return spawn(process.execPath, [main, ...args], {
    env: { PATH: process.env.PATH, LIFT_KEY: kept.liftKey },
    stdio: ['pipe', 'pipe', 'inherit'],
  });
}

export function firstLine(child: ChildProcess): Promise<{ url: string; pid: number }> {
  return new Promise((resolve, reject) => {
    child.once('exit', (code) =>
      reject(new Error(`The lift company's server exited with code ${code} during startup`)),
    );
    createInterface({ input: child.stdout! }).once('line', (line) =>
      resolve(JSON.parse(line) as { url: string; pid: number }),
    );
  });
}

const portOf = (url: string) => Number(new URL(url).port);
