import { z } from 'zod';
import { PindroError } from '../../errors/errors.js';
import { isObject, type Json, type JsonObject } from '../../json/json.js';
import { jsonMistake } from '../../json/json-mistake.js';
import { json } from '../document.js';
import { encodePairs, parameterValues, type Styles, scalar } from './parameters.js';

const octets = z
  .string()
  .default('application/octet-stream')
  .meta({ title: 'Type', description: 'Media type', examples: ['image/png'] });
const bytes = z.string().meta({ title: 'Bytes', description: 'In base64' });
const part = z.union([
  scalar,
  z
    .strictObject({
      file: z.string().meta({ title: 'Name of the file', description: 'As the recipient sees it' }),
      text: z.string().optional().meta({ title: 'Text', description: 'Its content, as text', form: 'long' }),
      base64: bytes.optional().meta({ title: 'Bytes', description: 'Its content, in base64' }),
      type: octets,
    })
    .meta({ title: 'A file' }),
  z.array(json).meta({ title: 'Several values, one by one' }),
  z.record(z.string(), json).meta({ title: 'Fields, as JSON' }),
]);

/** The bodies a request can have; one of them at most. */
export const encodedBody = {
  json: json.optional().meta({ title: 'JSON body', description: 'Body sent as JSON' }),
  form: parameterValues.optional().meta({ title: 'Form body', description: 'Names and values, sent as a form' }),
  multipart: z
    .record(z.string(), part)
    .optional()
    .meta({ title: 'Multipart body', description: 'Names, and values or files' }),
  text: z.string().optional().meta({ title: 'Text body', description: 'Body sent as text', form: 'long' }),
  binary: z
    .strictObject({ base64: bytes, type: octets })
    .optional()
    .meta({ title: 'Binary body', description: 'Body as base64' }),
};
type Bodies = z.infer<z.ZodObject<typeof encodedBody>>;

interface Encoded {
  type: string | null;
  /** Text, or base64 where `binary` is set. */
  text: string | null;
  binary: boolean;
}

export function bodyOf(config: Bodies & { styles: Styles }): Encoded {
  if (config.json !== undefined) return { type: 'application/json', text: JSON.stringify(config.json), binary: false };
  if (config.form) {
    const text = encodePairs(config.form, 'form', config.styles);
    return { type: 'application/x-www-form-urlencoded', text, binary: false };
  }
  if (config.multipart) return multipart(config.multipart);
  if (config.binary) return { type: config.binary.type, text: config.binary.base64, binary: true };
  return {
    type: config.text === undefined ? null : 'text/plain; charset=utf-8',
    text: config.text ?? null,
    binary: false,
  };
}

/** A form with files (RFC 7578). Bytes may be anything, so that the whole goes over as base64. */
function multipart(parts: NonNullable<Bodies['multipart']>): Encoded {
  const boundary = `pindro-${crypto.randomUUID()}`;
  const quoted = (text: string) => text.replaceAll('"', '%22').replaceAll(/[\r\n]+/g, ' ');
  let bytes = '';
  const all = Object.entries(parts).flatMap(([name, value]) =>
    Array.isArray(value) ? value.map((one): [string, Json] => [name, one]) : [[name, value as Json] as [string, Json]],
  );
  for (const [name, value] of all) {
    bytes += utf8(`--${boundary}\r\nContent-Disposition: form-data; name="${quoted(name)}"`);
    if (isFile(value)) {
      const { file, base64, text = '', type = 'application/octet-stream' } = value;
      bytes += utf8(`; filename="${quoted(String(file))}"\r\nContent-Type: ${quoted(String(type))}\r\n\r\n`);
      bytes += base64 === undefined ? utf8(String(text)) : fromBase64(name, String(base64));
      bytes += '\r\n';
    } else if (typeof value === 'object' && value !== null)
      bytes += utf8(`\r\nContent-Type: application/json\r\n\r\n${JSON.stringify(value)}\r\n`);
    else bytes += utf8(`\r\n\r\n${value}\r\n`);
  }
  bytes += `--${boundary}--\r\n`;
  return { type: `multipart/form-data; boundary=${boundary}`, text: btoa(bytes), binary: true };
}

const isFile = (value: Json): value is JsonObject =>
  isObject(value) && 'file' in value && ('text' in value || 'base64' in value);

/** A text as its UTF-8 bytes, one character each. */
function utf8(text: string): string {
  let bytes = '';
  for (const byte of new TextEncoder().encode(text)) bytes += String.fromCharCode(byte);
  return bytes;
}

function fromBase64(name: string, text: string): string {
  try {
    return atob(text);
  } catch {
    throw new PindroError('step_failed', { why: `The part "${name}" is not base64` });
  }
}

/** A body by type; the body of a failed request is used unchanged. */
export function readBody(text: string, as: string, type: string, failed: boolean): Json {
  const wantsJson = as === 'json' || (as === 'by_type' && /\bjson\b/i.test(type));
  if (!wantsJson) return text;
  if (text.trim() === '') return null;
  try {
    return JSON.parse(text) as Json;
  } catch (error) {
    if (failed) return text;
    const says = as === 'json' ? 'The response must be JSON but is not' : 'The response declares JSON but is not';
    throw new PindroError('step_failed', { why: `${says}: ${jsonMistake(error)}` });
  }
}
