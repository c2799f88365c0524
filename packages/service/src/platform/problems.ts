import { asPindroError, humanSize, jsonMistake, PindroError } from '@pindro/core';
import type { ErrorRequestHandler, Response } from 'express';

/** An error without the values it was about: the database's own errors list the parameters of their statement. */
export function loggable(thrown: unknown): { error: string; stack?: string } {
  if (!(thrown instanceof Error)) return { error: typeof thrown };
  const frames = thrown.stack?.split('\n').filter((line) => /^\s+at /.test(line));
  return {
    error: `${thrown.name}: ${thrown.message.split(/\nparams: /)[0]}`,
    ...(frames && { stack: frames.join('\n') }),
  };
}

/** Whatever was thrown as an error that may leave the service; what is unforeseen is logged under a reference. */
export function presentable(thrown: unknown): PindroError {
  if (thrown instanceof PindroError) return thrown;
  const error = thrown as { type?: string; message?: string; limit?: number; status?: number };
  if (error?.type === 'entity.too.large')
    return new PindroError('body_too_large', { limit: humanSize(error.limit ?? 0), where: 'with --body-limit' });
  if (error?.type === 'parameters.too.many')
    return new PindroError('too_many_parts', { what: 'The form', found: 'too many fields', most: 500 });
  if (
    error?.type === 'entity.parse.failed' ||
    error?.type === 'encoding.unsupported' ||
    error?.type === 'charset.unsupported'
  ) {
    const isJson = error.type === 'entity.parse.failed';
    return new PindroError('body_unreadable', {
      why: isJson ? jsonMistake(thrown) : (error.message ?? 'it cannot be parsed'),
    });
  }
  if (error?.type === 'request.aborted' || error?.type === 'request.size.invalid')
    return new PindroError('body_unreadable', { why: 'it broke off' });
  if (thrown instanceof URIError)
    return new PindroError('request_invalid', {
      why: 'The address contains a % that is not followed by two hex digits',
    });
  return asPindroError(thrown);
}

export function sendProblem(response: Response, error: PindroError): void {
  const problem = error.toProblem();
  if (typeof error.details?.seconds === 'number') response.setHeader('Retry-After', error.details.seconds);
  if (error.status === 401) response.setHeader('WWW-Authenticate', 'Bearer realm="pindro"');
  response.status(error.status).type('application/problem+json').send(JSON.stringify(problem));
}

export function problemHandler(): ErrorRequestHandler {
  return (thrown, _request, response, _next) => {
    const error = presentable(thrown);
    // A stream that has begun can only be cut; the connection is not used again.
    if (response.headersSent) return void response.destroy();
    sendProblem(response, error);
  };
}
