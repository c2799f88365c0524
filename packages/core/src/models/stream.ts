import { createParser } from 'eventsource-parser';
import { isObject, type JsonObject } from '../json/json.js';
import type { AnswerReader, ModelAnswer, ToolCall } from './dialect.js';

/** An error that a model sent in place of an event of its answer, in the form of the body of a refusal. */
export class StreamError extends Error {
  constructor(readonly body: JsonObject) {
    super('the model sent an error');
  }
}

/** What a dialect does with what it reads. */
interface Reading {
  /** Takes one event of a stream, or the whole answer. @returns the text that is new in it */
  take(message: JsonObject): string;
  /** @throws SyntaxError where it is no answer */
  finish(): ModelAnswer;
}

/** Reads server-sent events, or one JSON document where the server answers so although a stream was asked for. */
export function readAnswer({ take, finish }: Reading): AnswerReader {
  let fresh = '';
  let events = 0;
  let whole = '';
  const parser = createParser({
    onEvent: ({ data }) => {
      if (data === '[DONE]') return;
      events++;
      fresh += take(asMessage(JSON.parse(data)));
    },
  });
  return {
    push(piece) {
      if (events === 0) whole += piece;
      fresh = '';
      parser.feed(piece);
      return fresh;
    },
    end() {
      if (events > 0) return finish();
      if (whole.trim() === '') throw new SyntaxError('the response is empty');
      if (!/^\s*[[{]/.test(whole)) throw new SyntaxError('the response is neither events nor JSON');
      const parsed: unknown = JSON.parse(whole);
      for (const part of Array.isArray(parsed) ? parsed : [parsed]) take(asMessage(part));
      return finish();
    },
  };
}

function asMessage(value: unknown): JsonObject {
  if (!isObject(value)) throw new SyntaxError('the response is not an object');
  if (isObject(value.error)) throw new StreamError(value);
  return value;
}

/** Arguments from a model. If they are not a JSON object, the model receives an error and can correct them. */
export function readArguments(text: string): Pick<ToolCall, 'arguments' | 'unreadable'> {
  if (text.trim() === '') return { arguments: {} };
  try {
    const value: unknown = JSON.parse(text);
    if (isObject(value)) return { arguments: value };
  } catch {
    // kept as it is
  }
  return { arguments: {}, unreadable: text };
}

/** Returns a number of tokens from any value. */
export const count = (value: unknown): number =>
  typeof value === 'number' && Number.isFinite(value) && value > 0 ? Math.round(value) : 0;

/** @throws SyntaxError where nothing at all came */
export function requireSomething({ text, calls, stop, end }: ModelAnswer): void {
  if (stop === '' && text === '' && calls.length === 0) throw new SyntaxError('the response ended before any content');
  if (stop === '') throw new SyntaxError(`the response ended after ${text.length} characters without a finish reason`);
  // What is paused may not have said anything yet.
  if (text === '' && calls.length === 0 && end === 'answer')
    throw new SyntaxError('the response has no text and no tool calls');
}
