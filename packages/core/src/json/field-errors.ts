import { isObject, type Json } from './json.js';

export interface FieldError {
  field: string;
  says: string;
}

/** Errors by field, in the forms that services usually send them. */
export function fieldErrorsIn(body: Json | undefined): FieldError[] {
  if (!isObject(body)) return [];
  const inner = isObject(body.error) ? body.error : {};
  for (const list of [body.errors, body.detail, body['invalid-params'], body.violations, inner.errors, inner.details]) {
    const found = Array.isArray(list) ? list.flatMap(oneOf) : isObject(list) ? Object.entries(list).flatMap(named) : [];
    if (found.length > 0) return found;
  }
  return [];
}

const named = ([field, says]: [string, Json]): FieldError[] => {
  const text = Array.isArray(says) ? says.map(String).join('; ') : typeof says === 'string' ? says : '';
  return text ? [{ field: last(field), says: text }] : [];
};

function oneOf(entry: Json): FieldError[] {
  if (!isObject(entry)) return [];
  const at = entry.field ?? entry.path ?? entry.loc ?? entry.pointer ?? entry.name ?? entry.param;
  const says = entry.message ?? entry.msg ?? entry.detail ?? entry.reason ?? entry.description;
  const field = Array.isArray(at) ? String(at.at(-1) ?? '') : typeof at === 'string' ? last(at) : '';
  return field && typeof says === 'string' ? [{ field, says }] : [];
}
const last = (path: string) => path.split(/[./]/).filter(Boolean).at(-1) ?? '';
