import { type FieldError, fieldErrorsIn } from '../../../json/field-errors.js';
import { isObject, type Json } from '../../../json/json.js';
import { detail, failureRule, firstWords, placeInFlow, placeOfArgument, quoted, sentBy } from '../../rule.js';

function parsed(text: string): Json | undefined {
  try {
    return JSON.parse(text) as Json;
  } catch {
    return undefined;
  }
}

export const fieldErrors = failureRule({
  code: 'fields_refused',
  about: 'The other side named the fields that it rejects. Each is traced to its source.',
  todo: 'Correct the value of the field at its source.',
  codes: ['http_status', 'tool_reported_error'],
  explain: (failure, trace) => {
    const { error } = failure;
    const data = error.details?.data;
    const body = error.code === 'http_status' ? parsed(detail(failure, 'body')) : data;
    const errors = fieldErrorsIn(body);
    if (errors.length === 0) return null;
    const [{ field, says }] = errors as [FieldError];
    const server = detail(failure, 'server');
    const tool = detail(failure, 'tool');
    const sent = server ? sentBy(failure) : bodySent(trace.stepOf(failure.span)?.input);
    const who = server ? `${tool} of ${server}` : `${detail(failure, 'address')} (${detail(failure, 'status')})`;
    return {
      title: `${who} rejected ${field}${field in sent ? ` = ${quoted(sent[field])}` : ''}: ${says}`,
      why: `The response names ${errors.length === 1 ? 'one field' : `${errors.length} fields`}: ${errors.map((one) => `${one.field} (${one.says})`).join(', ')}.`,
      fix: `Correct the value of "${field}".`,
      place: server
        ? placeOfArgument(failure, trace, { server, tool, argument: field })
        : placeInFlow(failure, trace, bodyPointer(trace.stepOf(failure.span)?.input, field)),
      quotes: [firstWords(JSON.stringify(body))],
      about: [error.code, server || detail(failure, 'address'), tool, field],
    };
  },
});

/** Where a request carries fields, in the configuration of its step. */
const CARRIERS = ['json', 'form', 'multipart', 'query'];

const carrierOf = (input: Json | undefined, field: string): string | undefined =>
  CARRIERS.find((name) => isObject(input) && isObject(input[name]) && field in input[name]);

function bodySent(input: Json | undefined): { [name: string]: Json } {
  if (!isObject(input)) return {};
  return Object.assign({}, ...CARRIERS.toReversed().map((name) => (isObject(input[name]) ? input[name] : {})));
}
const bodyPointer = (input: Json | undefined, field: string): string => {
  const carrier = carrierOf(input, field);
  return carrier ? `/with/${carrier}/${field}` : '/with';
};
