import { z } from 'zod';
import { MASK, type Masker } from '../secrets/masking.js';

/** What one side of an exchange said. */
const said = z.object({
  headers: z.record(z.string(), z.string()).optional(),
  body: z.string(),
  characters: z.number().optional().describe('Full length of the body, if only its beginning is stored'),
});

/** A request and its response: HTTP, or lines to and from a program. */
export const exchangeSchema = z.object({
  at: z.number().describe('Time sent, in milliseconds since the epoch'),
  request: said.extend({ method: z.string().optional(), address: z.string().optional() }),
  answer: said
    .extend({ status: z.number().optional() })
    .nullable()
    .describe('Null without a response, or if the response was interrupted'),
  error: z.string().optional().describe('Why there was no response, or why it was interrupted'),
});
export type Exchange = z.infer<typeof exchangeSchema>;

/**
 * Records an exchange. It may grow until its span ends.
 * @param masker knows what else must not be shown of it
 */
export type OnExchange = (exchange: Exchange, masker?: Masker) => void;
/** A captured exchange with its masker. */
export type CapturedExchange = [exchange: Exchange, masker?: Masker | undefined];

/** Maximum stored length of a body, in characters. */
export const LONGEST_BODY = 64 * 1024;
/** Maximum number of exchanges of one span: the first and the last ones. */
export const MOST_EXCHANGES = 20;

/** Whether something was refused, or did not come. */
const failed = ({ answer, error }: Exchange) =>
  error !== undefined || answer === null || (answer.status !== undefined && answer.status >= 400);

/** Returns the exchanges of a span to store, masked. @param whole whether all are stored; otherwise only failed ones */
export function keptExchanges(all: readonly CapturedExchange[], masker: Masker, whole: boolean): Exchange[] {
  const wanted = all.filter(([one]) => whole || failed(one));
  const half = MOST_EXCHANGES / 2;
  const some = wanted.length > MOST_EXCHANGES ? [...wanted.slice(0, half), ...wanted.slice(-half)] : wanted;
  return some.map(([one, own]) => masked(own ? masked(one, own) : one, masker));
}

function masked({ at, request, answer, error }: Exchange, masker: Masker): Exchange {
  const { method, address } = request;
  const { status } = answer ?? {};
  return {
    at,
    request: {
      ...(method !== undefined && { method }),
      ...(address !== undefined && { address: masker.text(withoutPassword(address)) }),
      ...side(request, masker),
    },
    answer: answer && { ...(status !== undefined && { status }), ...side(answer, masker) },
    ...(error !== undefined && { error: masker.text(error) }),
  };
}

function side({ headers, body, characters }: z.infer<typeof said>, masker: Masker): z.infer<typeof said> {
  const length = characters ?? body.length;
  // What may be the beginning of a secret at the cut is left away with what follows.
  const shown = body.length > LONGEST_BODY ? masker.stream().push(body.slice(0, LONGEST_BODY)) : masker.text(body);
  return {
    ...(headers && {
      headers: Object.fromEntries(
        Object.entries(headers).map(([name, value]) => [name, SECRET.test(name) ? bare(value) : masker.text(value)]),
      ),
    }),
    body: shown,
    ...(length > LONGEST_BODY && { characters: length }),
  };
}

/** Headers whose values are secrets by their names, whether anybody made them known or not. */
const SECRET = /authorization|cookie|apikey|(^|[-_])(auth|key|token|secret|signature|password|session)([-_]|$)/i;
/**
 * Redacts the value of a header whose name says that it is secret. Authentication schemes stay, also repeated ones: a
 * missing or repeated scheme is a common cause of a refusal.
 */
const bare = (value: string) =>
  `${schemesOf(value)
    .map((scheme) => `${scheme} `)
    .join('')}${MASK}`;

const SCHEME = /^(bearer|basic|digest|token|negotiate)\s+/i;

/**
 * Returns the words at the beginning of a header's value that name an authentication scheme (RFC 9110, 11.1).
 * @param value of the header
 * @returns names as written, such as `Bearer`
 */
export function schemesOf(value: string): string[] {
  const schemes: string[] = [];
  for (let rest = value, found = SCHEME.exec(rest); found; found = SCHEME.exec(rest)) {
    schemes.push(found[1]!);
    rest = rest.slice(found[0].length);
  }
  return schemes;
}
const withoutPassword = (address: string) => address.replace(/\/\/[^/?#]*@/, `//${MASK}@`);
