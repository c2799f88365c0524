import type { Request, Response } from 'express';
import type { Tool } from '../choose.js';
import type { ChatMessage } from '../think.js';

/** What is said, as a wire format writes it. */
export interface Said {
  text: string;
  calls: { name: string; arguments: Record<string, unknown>; written: string; isReadable: boolean }[];
  end: 'answer' | 'calls' | 'length' | 'refusal' | 'paused';
  /** What it thought before. */
  thought: string;
  /** Whether the answer breaks off before its end. */
  cut: boolean;
}

/** A question, whichever wire format it came in. */
export interface Asked {
  model: string;
  messages: ChatMessage[];
  tools: Tool[];
  /** Asks for an answer in a schema. */
  schema: Tool['parameters'] | null;
  /** A tool that has to be called, or `any` of them. */
  forced: string | null;
  stream: boolean;
  usage: { input: number; output: number };
}

export type Refused = 'key' | 'unpaid' | 'busy' | 'model' | 'full' | 'fault' | 'request';
export const STATUS: Record<Refused, number> = {
  ...{ key: 401, unpaid: 402, busy: 429, model: 404, full: 400, fault: 500, request: 400 },
};

/** One wire format of the stand-in. */
export interface ExchangeList {
  name: string;
  /** Express paths below the base address. */
  path: string;
  /** The key of a request. */
  key(request: Request): string | undefined;
  /** @throws Error with what is wrong with the question */
  read(request: Request): Asked;
  write(response: Response, asked: Asked, said: Said): void;
  /** The body of an error. */
  error(kind: Refused, words: string): object;
}

/** The key of a request, as the client libraries of each format send one. */
export const keyIn = {
  bearer: ({ headers }: Request): string | undefined => /^Bearer (.+)$/i.exec(headers.authorization ?? '')?.[1],
  header: (request: Request, name: string): string | undefined => request.headers[name] as string | undefined,
};

/** A schema with the names of types in lower case, as some libraries do not send them. */
export function lowerTypes<T>(schema: T): T {
  if (Array.isArray(schema)) return schema.map(lowerTypes) as T;
  if (typeof schema !== 'object' || schema === null) return schema;
  return Object.fromEntries(
    Object.entries(schema).map(([name, value]) => [
      name,
      name === 'type' && typeof value === 'string' ? value.toLowerCase() : lowerTypes(value),
    ]),
  ) as T;
}

export const tokens = (value: unknown) => Math.ceil(JSON.stringify(value ?? '').length / 4);
const PIECE = 12;
/** A text as it is streamed, piece by piece. */
export const pieces = (text: string): string[] =>
  Array.from({ length: Math.ceil(text.length / PIECE) }, (_, at) => text.slice(at * PIECE, (at + 1) * PIECE));

export const list = <T>(value: unknown, what: string): T[] => {
  if (!Array.isArray(value) || value.length === 0)
    throw new Error(`"${what}" must be a list with at least one message`);
  return value as T[];
};
