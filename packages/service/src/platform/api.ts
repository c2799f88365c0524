import {
  FORMER_PATHS,
  mayUse,
  type Role,
  type Route,
  type RouteName,
  routes,
  withPresentNames,
} from '@pindro/contract';
import { type Caller, findUnsafe, giveWay, isObject, letOthers, mistakesOf, PindroError } from '@pindro/core';
import { type Request, type RequestHandler, type Response, Router } from 'express';
import { z } from 'zod';
import { writeBounded } from './outflow.js';

/** Who makes a request: a person at the console, or the holder of a key. */
export interface Who {
  name: string;
  role: Role;
  caller: Caller;
}

type Routes = typeof routes;
type QueryOf<R> = R extends { query: infer Q extends z.ZodType } ? z.output<Q> : undefined;
type BodyOf<R> = R extends { body: infer B extends z.ZodType } ? z.output<B> : undefined;
type AnswerOf<R> = R extends { answer: infer A extends z.ZodType } ? z.input<A> : never;

export interface ApiCall<N extends RouteName> {
  /** A parameter of the path. */
  param(name: string): string;
  query: QueryOf<Routes[N]>;
  body: BodyOf<Routes[N]>;
  who: Who;
  request: Request;
  response: Response;
  /** Aborted when the client goes away. */
  signal: AbortSignal;
}
/** An answer that has been written as JSON already: a long one, where it was made. */
export class Written<T> {
  readonly json: string;

  /** @param json of an object that is not empty @param more what else the object holds */
  constructor(json: string, more: Partial<T> = {}) {
    const added = JSON.stringify(more);
    this.json = added === '{}' ? json : `${added.slice(0, -1)},${json.slice(1)}`;
  }
}

/** Lists with more items than this are serialized in chunks, with a turn of the event loop between them. */
const PIECE = 200;
const isLongList = (answer: unknown): answer is { items: unknown[] } =>
  isObject(answer) && Array.isArray(answer.items) && answer.items.length > PIECE;

async function inPieces({ items, ...rest }: { items: unknown[] }): Promise<string> {
  const pieces: string[] = [];
  for (let from = 0; from < items.length; from += PIECE) {
    pieces.push(JSON.stringify(items.slice(from, from + PIECE)).slice(1, -1));
    await letOthers();
  }
  return `{"items":[${pieces.join()}],${JSON.stringify(rest).slice(1)}`.replace(/,\}$/, '}');
}

type Answer<N extends RouteName> = AnswerOf<Routes[N]> | Written<AnswerOf<Routes[N]>>;
type Handler<N extends RouteName> = (call: ApiCall<N>) => Promise<Answer<N>> | Answer<N>;
type StreamHandler<N extends RouteName> = (
  call: ApiCall<N>,
  send: (event: AnswerOf<Routes[N]>) => void,
) => Promise<void>;

const whoIs = new WeakMap<Request, Who>();
export const remember = (request: Request, who: Who) => void whoIs.set(request, who);

/** The API: every route of the contract, each with its input checked against it. */
export class Api {
  readonly router = Router({ caseSensitive: true });
  readonly #left = new Set<RouteName>(Object.keys(routes) as RouteName[]);

  constructor(identify: RequestHandler) {
    this.router.use(identify);
  }

  on<N extends RouteName>(name: N, handler: Handler<N>): void {
    this.#bind(name, async (request, response) => {
      const call = this.#call(name, request, response);
      // Requests that arrive together are answered in several turns of the event loop.
      await giveWay();
      const answer = await handler(call);
      if (response.headersSent) return;
      if (answer instanceof Written) response.type('json').send(answer.json);
      else if (isLongList(answer)) response.type('json').send(await inPieces(answer));
      else response.json(answer);
    });
  }

  /** A route whose name derives from a descriptor, so that no type knows it. @throws Error if the contract has none of that name */
  onDerived(name: string, handler: (call: ApiCall<'renameModel'>) => unknown): void {
    if (!Object.hasOwn(routes, name)) throw new Error(`The contract has no route "${name}"`);
    this.on(name as 'renameModel', handler as Handler<'renameModel'>);
  }

  stream<N extends RouteName>(name: N, handler: StreamHandler<N>): void {
    this.#bind(name, async (request, response) => {
      const call = this.#call(name, request, response);
      const begin = () => {
        if (response.headersSent || response.destroyed) return;
        response.status(200).set({ 'content-type': 'text/event-stream', 'x-accel-buffering': 'no' });
        response.flushHeaders();
      };
      // What is refused at once is refused like everywhere else; a stream has no status for it.
      const soon = setImmediate(begin);
      const beat = setInterval(() => writeBounded(response, ': still here\n\n'), 15_000);
      try {
        await handler(call, (event) => {
          begin();
          writeBounded(response, `data: ${JSON.stringify(event)}\n\n`);
        });
        begin();
        response.end();
      } finally {
        clearImmediate(soon);
        clearInterval(beat);
      }
    });
  }

  /** Routes of the contract that nobody serves yet. */
  missing(): RouteName[] {
    return [...this.#left];
  }

  #bind(name: RouteName, handler: RequestHandler): void {
    const { method, path } = routes[name];
    const needed = routes[name].role;
    const allowed: RequestHandler = (request, _response, next) => {
      const { name: who, role } = whoIs.get(request)!;
      if (!mayUse(role, needed)) throw new PindroError('role_too_low', { name: who, role, needed });
      next();
    };
    this.#left.delete(name);
    const verb = method.toLowerCase() as 'get' | 'post' | 'put' | 'delete';
    this.router[verb](path, allowed, handler);
    const former = FORMER_PATHS[name];
    if (former) this.router[verb](former, deprecated(path), allowed, handler);
  }

  #call<N extends RouteName>(name: N, request: Request, response: Response): ApiCall<N> {
    const route: Route = routes[name];
    const gone = new AbortController();
    response.once('close', () => gone.abort(new PindroError('cancelled', { what: 'The request' })));
    const unsafe = findUnsafe(request.body);
    if (unsafe)
      throw new PindroError('value_unsafe', { where: unsafe.at || 'the top', why: unsafe.why }, { at: unsafe.at });
    return {
      param: (key) => String(request.params[key]),
      query: read(route.query ?? NO_QUERY, request.query, 'parameter') as QueryOf<Routes[N]>,
      body: read(route.body, request.body ?? {}, 'field') as BodyOf<Routes[N]>,
      who: whoIs.get(request)!,
      request,
      response,
      signal: gone.signal,
    };
  }
}

const NO_QUERY = z.object({});

/** Marks answers at a former path as deprecated (RFC 9745), with a link to the present one. */
const deprecated =
  (path: string): RequestHandler =>
  (request, response, next) => {
    const present = path.replaceAll(/:(\w+)/g, (_, name: string) => encodeURIComponent(String(request.params[name])));
    response.set({ deprecation: '@1796169600', link: `<${request.baseUrl}${present}>; rel="successor-version"` });
    next();
  };

/** Schemas that take nothing else, made once: each is compiled when it is first used. */
const strict = new WeakMap<z.ZodType, z.ZodType>();
function strictOf(schema: z.ZodType): z.ZodType {
  const known = strict.get(schema);
  if (known) return known;
  const made = schema instanceof z.ZodObject && !schema.def.catchall ? schema.strict() : schema;
  strict.set(schema, made);
  return made;
}

/** Validates a request against the contract. Unknown names are mistakes. */
function read(schema: z.ZodType | undefined, value: unknown, what: 'parameter' | 'field'): unknown {
  if (!schema) return undefined;
  const parsed = strictOf(schema).safeParse(value);
  if (parsed.success) return parsed.data;
  const renamed = withPresentNames(value);
  if (renamed) return read(schema, renamed, what);
  const known = schema instanceof z.ZodObject ? Object.keys(schema.shape) : [];
  const mistakes = mistakesOf(parsed.error, value, [], { known }).map((mistake) =>
    mistake.message.endsWith('is not allowed here')
      ? { ...mistake, message: `No ${what} ${mistake.message.split(' ')[0]} here` }
      : mistake,
  );
  throw new PindroError(
    'request_invalid',
    {
      why: mistakes.map(({ message, hint }) => (hint ? `${message}. ${hint}` : message)).join('; '),
      fix: 'Compare the request with /api/v1/openapi.json.',
    },
    { mistakes, at: mistakes[0]?.at ?? '' },
  );
}
