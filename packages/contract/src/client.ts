import { createParser } from 'eventsource-parser';
import type { z } from 'zod';
import type { ProblemDetails } from './resources.js';
import type { RouteName, routes } from './routes/index.js';
import type { Route } from './routes/route.js';

type Routes = typeof routes;
type PathParams<P extends string> = P extends `${string}:${infer Name}/${infer Rest}`
  ? Name | PathParams<Rest>
  : P extends `${string}:${infer Name}`
    ? Name
    : never;
type Params<R extends Route> = { [K in PathParams<R['path']>]: string };
type Query<R extends Route> = R extends { query: infer Q extends z.ZodType } ? { query?: z.input<Q> } : unknown;
type Body<R extends Route> = R extends { body: infer B extends z.ZodType } ? { body: z.input<B> } : unknown;
type Answer<R extends Route> = R extends { stream: true }
  ? AsyncIterable<z.output<R['answer']>>
  : Promise<z.output<R['answer']>>;

/** Arguments of a client function: path parameters, query and body in one object. */
export type CallArguments<R extends Route> = Params<R> & Query<R> & Body<R> & { signal?: AbortSignal };
export type Client = {
  [N in RouteName]: (
    ...args: keyof (Params<Routes[N]> & Body<Routes[N]>) extends never
      ? [CallArguments<Routes[N]>?]
      : [CallArguments<Routes[N]>]
  ) => Answer<Routes[N]>;
};

/** A problem that the service returned. */
export class ProblemError extends Error {
  override readonly name = 'ProblemError';
  constructor(readonly problem: ProblemDetails) {
    super(problem.detail);
  }
}

/** No response from the service. */
export class UnreachableError extends Error {
  override readonly name = 'UnreachableError';
  constructor(
    readonly url: string,
    cause: unknown,
  ) {
    super(`No Pindro service responds at ${url}`, { cause });
  }
}

export interface ClientOptions {
  /** Address of the service, without a trailing slash; empty for the page's own. */
  url: string;
  key?: string;
}

/** What a client has to know of a route; all else is known when it is compiled. */
export type Address = Pick<Route, 'method' | 'path' | 'stream'>;

/** A client with one function for every route, typed by the contract. */
export function clientOf(addresses: Readonly<Record<string, Address>>, options: ClientOptions): Client {
  const entries = Object.entries(addresses).map(([name, route]) => [
    name,
    (args: Loose = {}) => (route.stream ? stream(route, args, options) : call(route, args, options)),
  ]);
  return Object.fromEntries(entries) as Client;
}

type Loose = { [name: string]: unknown; query?: Record<string, unknown>; body?: unknown; signal?: AbortSignal };

async function send(route: Address, args: Loose, options: ClientOptions): Promise<Response> {
  const path = route.path.replace(/:(\w+)/g, (_, name: string) => encodeURIComponent(String(args[name])));
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries(args.query ?? {})) if (value !== undefined) query.set(name, String(value));
  const search = query.size > 0 ? `?${query}` : '';
  let response: Response;
  try {
    response = await fetch(`${options.url}/api/v1${path}${search}`, {
      method: route.method,
      headers: {
        accept: route.stream ? 'text/event-stream' : 'application/json',
        ...(options.key && { authorization: `Bearer ${options.key}` }),
        ...(route.method !== 'GET' && { 'content-type': 'application/json' }),
      },
      ...(route.method !== 'GET' && { body: JSON.stringify(args.body ?? {}) }),
      ...(args.signal && { signal: args.signal }),
    });
  } catch (error) {
    if (args.signal?.aborted) throw error;
    throw new UnreachableError(options.url, error);
  }
  if (response.ok) return response;
  const text = await response.text();
  try {
    throw new ProblemError(JSON.parse(text) as ProblemDetails);
  } catch (error) {
    if (error instanceof ProblemError) throw error;
    throw new ProblemError({
      type: 'about:blank',
      title: 'Unexpected response',
      status: response.status,
      detail: `The service returned ${response.status}`,
      code: 'internal',
      hint: 'Check that the address belongs to a Pindro service.',
    });
  }
}

async function call(route: Address, args: Loose, options: ClientOptions): Promise<unknown> {
  return (await send(route, args, options)).json();
}

async function* stream(route: Address, args: Loose, options: ClientOptions): AsyncIterable<unknown> {
  const response = await send(route, args, options);
  const ready: unknown[] = [];
  const parser = createParser({ onEvent: ({ data }) => void ready.push(JSON.parse(data)) });
  const decoder = new TextDecoder();
  const reader = response.body!.getReader();
  try {
    for (let piece = await reader.read(); !piece.done; piece = await reader.read()) {
      parser.feed(decoder.decode(piece.value, { stream: true }));
      yield* ready.splice(0);
    }
  } finally {
    await reader.cancel().catch(() => {});
  }
}
