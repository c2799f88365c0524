import { isObject, type Json, type JsonObject, PindroError } from '@pindro/core';
import type { Response } from 'express';

/** Headers that belong to the connection, to the service itself, or to its sign-in. */
const RESERVED =
  /^(?:connection|keep-alive|proxy-.*|te|trailer|transfer-encoding|upgrade|content-length|date|server|set-cookie|strict-transport-security|clear-site-data|service-worker-allowed|content-security-policy.*|access-control-.*|x-content-type-options)$/i;
const NAME = /^[!#$%&'*+\-.^_`|~0-9A-Za-z]{1,100}$/;
const KNOWN = ['status', 'headers', 'body', 'base64'];
/** A page of a flow has an origin of its own: its scripts reach neither the console nor its session. */
const SANDBOX = 'sandbox allow-scripts allow-forms allow-popups';

/**
 * Sends the response that a result describes: `status` (200 to 599), `headers` (texts by name), and `body` (a text, or
 * anything else as JSON) or `base64`. @throws response_invalid
 */
export function sendDescribed(response: Response, result: Json, flow: string): void {
  const refuse = (why: string) => new PindroError('response_invalid', { flow, why });
  if (!isObject(result)) throw refuse('it is not an object');
  const other = Object.keys(result).find((key) => !KNOWN.includes(key));
  if (other !== undefined) throw refuse(`"${other}" is not one of ${KNOWN.join(', ')}`);
  const { status = 200, headers = {}, body = '', base64 } = result;
  if (!Number.isInteger(status) || Number(status) < 200 || Number(status) > 599)
    throw refuse(`"status" must be an integer from 200 to 599, not ${JSON.stringify(status)?.slice(0, 40)}`);
  if (!isObject(headers)) throw refuse('"headers" must be an object');
  const texts = textsOf(headers, refuse);
  if (base64 !== undefined && typeof base64 !== 'string') throw refuse('"base64" must be a string');
  response.status(Number(status)).setHeader('Content-Security-Policy', SANDBOX);
  for (const [name, text] of texts) response.setHeader(name, text);
  const content = base64 === undefined ? body : Buffer.from(base64, 'base64');
  if (status === 204 || status === 304) return void response.end();
  if (!response.hasHeader('content-type'))
    response.type(base64 !== undefined ? 'bin' : typeof body === 'string' ? 'txt' : 'json');
  response.end(typeof content === 'string' || Buffer.isBuffer(content) ? content : JSON.stringify(content));
}

function textsOf(headers: JsonObject, refuse: (why: string) => PindroError): [string, string][] {
  return Object.entries(headers).map(([name, value]) => {
    if (!NAME.test(name)) throw refuse(`"${name.slice(0, 60)}" is not a valid header name`);
    if (RESERVED.test(name)) throw refuse(`the header "${name}" is reserved for Pindro`);
    const text = String(value);
    if (isObject(value) || Array.isArray(value) || /[^\t\x20-\x7e\x80-\xff]/.test(text))
      throw refuse(`the header "${name}" must be a string without line breaks`);
    return [name, text];
  });
}
