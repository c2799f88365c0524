import { createServer, type Server as HttpServer } from 'node:http';
import { McpServer } from '@modelcontextprotocol/sdk/server/mcp.js';
import express, { type Request } from 'express';
import { createTransport } from 'nodemailer';
import { z } from 'zod';
import { listen } from '../listen.js';
import { openDoor, openOlderDoor } from '../mcp-doors.js';
import { HUTS, type Load, LoadBook, MAX_KG } from './loads.js';

export interface LiftOptions {
  /** What callers must present as `Authorization: Bearer KEY`. */
  key: string;
  /** Further keys, each with the account whose loads it schedules. */
  accounts?: Record<string, string>;
  port?: number;
  /** File that keeps the loads. */
  file?: string;
  /** Where confirmations are mailed to the huts. */
  smtpPort?: number;
  /** Delay of every call in milliseconds, for observing running calls. */
  delay?: number;
}
export interface Lift {
  url: string;
  /** The same over HTTP+SSE, for clients of 2024. */
  older: string;
  http: HttpServer;
  /** What waits to go up. */
  loads(): Load[];
  close(): Promise<void>;
}

const hut = z.enum(HUTS).describe('Name of the hut');
const day = z.iso.date().describe('On which day the load goes up');

/** The lift company's tool server: MCP over Streamable HTTP and over HTTP+SSE, with a bearer key. */
export async function startLift(options: LiftOptions): Promise<Lift> {
  const book = new LoadBook(options.file);
  const mail = options.smtpPort
    ? createTransport({ host: '127.0.0.1', port: options.smtpPort, secure: false, ignoreTLS: true })
    : null;
  const pause = () => new Promise((resolve) => setTimeout(resolve, options.delay ?? 0));

  const answer = async (work: () => Record<string, unknown> | Promise<Record<string, unknown>>) => {
    if (options.delay) await pause();
    try {
      const structuredContent = await work();
      return { content: [{ type: 'text' as const, text: JSON.stringify(structuredContent) }], structuredContent };
    } catch (error) {
      return { isError: true, content: [{ type: 'text' as const, text: (error as Error).message }] };
    }
  };

  const makeServer = (account: string | undefined) => {
    const server = new McpServer({ name: 'Valley Lift', version: '2.3.0' });
    server.registerTool(
      'list_loads',
      {
        description: 'List the loads that wait to go up with the cable lift.',
        annotations: { readOnlyHint: true },
        inputSchema: {
          hut: hut.optional(),
          day: day.optional(),
          station: z.enum(['valley', 'ridge']).optional().describe('At which station'),
        },
      },
      ({ hut, day, station }) =>
        answer(() => ({ loads: book.list({ ...(hut && { hut }), ...(day && { day }), ...(station && { station }) }) })),
    );
    server.registerTool(
      'schedule_load',
      {
        description: 'Schedule one load to go up to a hut with the cable lift.',
        annotations: { readOnlyHint: false, destructiveHint: false },
        inputSchema: {
          hut,
          day,
          weight_kg: z.number().describe('Weight in kilograms (kg)'),
          goods: z.string().optional().describe('What the load is'),
          priority: z.enum(['normal', 'urgent']).optional(),
        },
      },
      (given) =>
        answer(async () => {
          const load = book.schedule({
            ...JSON.parse(JSON.stringify(given)),
            ...(account !== undefined && { ordered_by: account }),
          });
          await mail?.sendMail({
            from: 'desk@valley-lift.example',
            to: `${load.hut}@alder-ridge.example`,
            subject: `Load ${load.load} is booked`,
            text: `${load.weight_kg} kg of ${load.goods} will go up to ${load.hut} on ${load.day}.`,
          });
          return { ...load };
        }),
    );
    server.registerTool(
      'cancel_load',
      {
        description: 'Cancel a load that waits.',
        annotations: { readOnlyHint: false, destructiveHint: true, idempotentHint: true },
        inputSchema: {
          load: z
            .string()
            .regex(/^L-\d{4}$/)
            .describe('Number of the load, for example L-0007'),
        },
      },
      ({ load }) => answer(() => ({ ...book.cancel(load) })),
    );
    server.registerTool(
      'lift_status',
      {
        description: 'Tell whether the cable lift is running and how much it carries.',
        inputSchema: {},
        annotations: { readOnlyHint: true },
      },
      () => answer(() => ({ running: true, carries_kg: MAX_KG, waiting: book.list({}).length })),
    );
    return server;
  };

  const app = express();
  app.use((request, response, next) => {
    const key = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1] ?? '';
    if (key === options.key || options.accounts?.[key] !== undefined) return next();
    response
      .status(401)
      .set('WWW-Authenticate', 'Bearer realm="valley lift"')
      .json({ error: 'a valid bearer key is needed' });
  });
  const make = (request: Request) =>
    makeServer(options.accounts?.[(request.headers.authorization ?? '').slice('Bearer '.length)]);
  openDoor(app, '/mcp', make);
  openOlderDoor(app, '/sse', make);

  const http = createServer(app);
  const port = await listen(http, options.port ?? 0);
  return {
    url: `http://127.0.0.1:${port}/mcp`,
    older: `http://127.0.0.1:${port}/sse`,
    http,
    loads: () => book.list({}),
    close: async () => {
      mail?.close();
      http.closeAllConnections();
      await new Promise((resolve) => http.close(resolve));
    },
  };
}
