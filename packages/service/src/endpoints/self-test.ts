import { KEY_GAP, type SelfTest } from '@pindro/contract';
import { isObject, type JsonObject } from '@pindro/core';
import type { Outside } from '../platform/reach/outside.js';
import { reasonOf } from '../platform/reason.js';

/** Sends one request to the service itself, or wherever the policy allows. */
export type SelfFetch = Outside['fetchSelf'];

const PATIENCE = 5000;
const PROTOCOL = '2025-11-25';

type Step = SelfTest['steps'][number];
interface Answer {
  status: number;
  headers: { get(name: string): string | null };
  body: JsonObject;
}
/** What a part found, or why it failed and what to do. */
class Failed extends Error {
  constructor(
    readonly found: string,
    readonly fix: string,
  ) {
    super(found);
  }
}

/** What the self-test calls itself as a client. */
export const SELF_TEST = 'pindro-self-test';
const INITIALIZE = {
  jsonrpc: '2.0',
  id: 1,
  method: 'initialize',
  params: { protocolVersion: PROTOCOL, capabilities: {}, clientInfo: { name: SELF_TEST, version: '1' } },
};

/** What to do about each refusal. */
const FIXES: Record<string, string> = {
  key_without_bearer:
    'Write the header as "Authorization: Bearer KEY", with the word Bearer and one space before the key.',
  not_signed_in:
    'The client sends no Authorization header. Look whether its settings have one, and whether it was restarted.',
  key_unknown: 'The key is not one of ours: it was mistyped, cut off, or made for another Pindro. Make a new one.',
  key_revoked: 'The key was revoked. Make a new one.',
  key_expired: 'The key has ended. Rotate it, or make a new one.',
  not_allowed: 'The key is good but does not open this endpoint. Make one that does.',
  not_found: 'There is no endpoint at this address. Copy the address again.',
  endpoint_off: 'The endpoint is switched off. Switch it on at the command line or on its page.',
  host_refused: 'The service does not go by that name. Set PINDRO_PUBLIC_URL to the address that clients use.',
  too_many_requests: 'Too many wrong keys came from there. Wait a minute.',
};

/** Sends one message as a client would. @throws Failed when no answer came */
async function send(
  fetch: SelfFetch,
  url: string,
  headers: Record<string, string>,
  message: object | null,
  method = message ? 'POST' : 'DELETE',
): Promise<Answer> {
  const response = await fetch(url, {
    method,
    redirect: 'manual',
    headers: {
      accept: 'application/json, text/event-stream',
      ...(message && { 'content-type': 'application/json' }),
      ...headers,
    },
    ...(message && { body: JSON.stringify(message) }),
    signal: AbortSignal.timeout(PATIENCE),
  }).catch((error: unknown) => {
    throw new Failed(
      `No answer: ${reasonOf(error)}`,
      'Look whether the address and port are right and nothing stands between.',
    );
  });
  const text = await response.text();
  let body: JsonObject = {};
  try {
    const parsed: unknown = JSON.parse(text);
    if (isObject(parsed)) body = parsed;
  } catch {
    // An event stream or a page; what it is shows in the headers.
  }
  return { status: response.status, headers: response.headers, body };
}

function refusal({ status, body }: Answer): Failed | null {
  if (!isObject(body.error))
    return status < 300 ? null : new Failed(`It answered ${status}`, 'Look what else listens at that address.');
  const data = isObject(body.error.data) ? body.error.data : {};
  const code = String(data.code ?? '');
  return new Failed(String(body.error.message), FIXES[code] ?? String(data.hint ?? 'The message says what to do.'));
}

/**
 * Connects to an endpoint as a stranger would, over the network, and says which part fails.
 * @param fetch the way out, which lets nobody reach what the policy forbids
 * @param key as it stands in the settings, or null for an endpoint that is open
 * @param broken tools that could not run, and why; none is called
 */
export async function selfTest(
  fetch: SelfFetch,
  url: string,
  key: string | null,
  broken: readonly { name: string; trouble: string }[] = [],
): Promise<SelfTest> {
  const steps: Step[] = [];
  let over = false;
  const part = async (what: string, work: () => Promise<string>) => {
    if (over) return void steps.push({ what, state: 'not tried', found: '', fix: null });
    try {
      steps.push({ what, state: 'well', found: await work(), fix: null });
    } catch (error) {
      over = true;
      const { found, fix } =
        error instanceof Failed ? error : new Failed(reasonOf(error), 'Look at the log of the service.');
      steps.push({ what, state: 'failed', found, fix });
    }
  };
  const authorization: Record<string, string> = key === null ? {} : { authorization: headerOf(key) };
  let session: Record<string, string> = {};
  let first: Answer | undefined;

  await part('The address answers', async () => {
    // No client does this, so that it is answered without asking for a key and noted nowhere.
    first = await send(fetch, url, {}, null, 'PUT');
    return `${url} answers with status ${first.status}`;
  });
  await part('An MCP endpoint of Pindro is there', async () => {
    const { body, status } = first!;
    if (body.code === 'host_refused') throw new Failed(String(body.detail), FIXES.host_refused!);
    if (body.jsonrpc === '2.0' && status === 405) return 'It speaks the protocol';
    throw new Failed(
      `Something else answers there with status ${status}`,
      'Look whether the address has the right port and ends in /mcp/NAME.',
    );
  });
  await part('The key is accepted', async () => {
    if (key?.includes(KEY_GAP))
      throw new Failed('The settings still hold the gap for the key', 'Make a key and put it where the gap is.');
    if (key !== null && /^bearer\s/i.test(key.trim()) === false && /\s/.test(key.trim()))
      throw new Failed('The key has a blank in it', 'Copy it again, in one piece.');
    const answer = await send(fetch, url, authorization, INITIALIZE);
    const refused = refusal(answer);
    if (refused) throw refused;
    const id = answer.headers.get('mcp-session-id');
    session = { ...authorization, 'mcp-protocol-version': PROTOCOL, ...(id && { 'mcp-session-id': id }) };
    return key === null ? 'The endpoint is open' : 'The key opens this endpoint';
  });
  await part('A session begins', async () => {
    const answer = await send(fetch, url, session, { jsonrpc: '2.0', method: 'notifications/initialized' });
    const refused = refusal(answer);
    if (refused) throw refused;
    return `A client of version ${PROTOCOL} is understood`;
  });
  await part('There are tools', async () => {
    const answer = await send(fetch, url, session, { jsonrpc: '2.0', id: 2, method: 'tools/list' });
    const refused = refusal(answer);
    if (refused) throw refused;
    const tools =
      isObject(answer.body.result) && Array.isArray(answer.body.result.tools) ? answer.body.result.tools : [];
    if (tools.length === 0)
      throw new Failed(
        'The list is empty',
        'Put a flow on the endpoint, publish those that are there, or give the key a wider scope.',
      );
    return `${tools.length} tool${tools.length === 1 ? '' : 's'}: ${tools.map((tool) => String((tool as JsonObject).name)).join(', ')}`;
  });
  await part('Changes are heard', async () => {
    const stop = new AbortController();
    const timer = setTimeout(() => stop.abort(), PATIENCE);
    try {
      const response = await fetch(url, { headers: { accept: 'text/event-stream', ...session }, signal: stop.signal });
      if (!response.headers.get('content-type')?.startsWith('text/event-stream'))
        throw new Failed(
          `The stream was answered with status ${response.status}`,
          'A proxy in between may not let streams through.',
        );
      const { value } = await response.body!.getReader().read();
      if (!value) throw new Failed('The stream closed at once', 'A proxy in between may not let streams through.');
      return 'The stream opens and carries';
    } catch (error) {
      if (!stop.signal.aborted) throw error;
      throw new Failed(
        'Nothing came over the stream',
        'A proxy in between holds answers back; switch its buffering off.',
      );
    } finally {
      clearTimeout(timer);
      stop.abort();
      await send(fetch, url, session, null).catch(() => {});
    }
  });
  const what = 'Every tool could run';
  const found = broken.map(({ name, trouble }) => `${name}: ${trouble}`).join('\n');
  if (broken.length > 0)
    steps.push({ what, state: 'failed', found, fix: 'Mend each, or take it off the endpoint; the others work.' });
  else steps.push({ what, state: 'well', found: 'Nothing was called', fix: null });
  return { well: !over && broken.length === 0, steps };
}

/** A key as it stands in settings: with the word Bearer before it, or bare as it was made. */
const headerOf = (key: string): string => (/^bearer\s/i.test(key.trim()) ? key.trim() : `Bearer ${key.trim()}`);
