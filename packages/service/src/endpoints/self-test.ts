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
    'Write the header as "Authorization: Bearer KEY", with the scheme Bearer and one space before the key.',
  not_signed_in: 'The client sends no Authorization header. Check its settings, and whether it was restarted.',
  key_unknown: 'The key is unknown: it is mistyped, incomplete, or belongs to another Pindro. Issue a new one.',
  key_revoked: 'The key was revoked. Issue a new one.',
  key_expired: 'The key has expired. Rotate it, or issue a new one.',
  not_allowed: 'The key is valid but does not grant access to this endpoint. Issue one that does.',
  not_found: 'No endpoint exists at this address. Copy the address again.',
  endpoint_off: 'The endpoint is disabled. Enable it at the command line or on its page.',
  host_refused: 'The service does not use that host name. Set PINDRO_PUBLIC_URL to the address that clients use.',
  too_many_requests: 'Too many failed authentications from this address. Wait a minute.',
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
    throw new Failed(`No response: ${reasonOf(error)}`, 'Check the address and port, and any proxy in between.');
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
    return status < 300
      ? null
      : new Failed(`The response status is ${status}`, 'Check which other program listens at that address.');
  const data = isObject(body.error.data) ? body.error.data : {};
  const code = String(data.code ?? '');
  return new Failed(String(body.error.message), FIXES[code] ?? String(data.hint ?? 'The message contains the fix.'));
}

/**
 * Connects to an endpoint over the network like an external client, and reports what fails.
 * @param fetch outgoing connections under the policy
 * @param key as in the settings, or null for an open endpoint
 * @param broken tools that could not run, with the reason; none is called
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
    if (over) return void steps.push({ what, state: 'not tested', found: '', fix: null });
    try {
      steps.push({ what, state: 'passed', found: await work(), fix: null });
    } catch (error) {
      over = true;
      const { found, fix } =
        error instanceof Failed ? error : new Failed(reasonOf(error), 'Check the log of the service.');
      steps.push({ what, state: 'failed', found, fix });
    }
  };
  const authorization: Record<string, string> = key === null ? {} : { authorization: headerOf(key) };
  let session: Record<string, string> = {};
  let first: Answer | undefined;

  await part('The address responds', async () => {
    // No client does this, so that it is answered without asking for a key and noted nowhere.
    first = await send(fetch, url, {}, null, 'PUT');
    return `${url} responds with status ${first.status}`;
  });
  await part('A Pindro MCP endpoint is there', async () => {
    const { body, status } = first!;
    if (body.code === 'host_refused') throw new Failed(String(body.detail), FIXES.host_refused!);
    if (body.jsonrpc === '2.0' && status === 405) return 'The endpoint speaks MCP';
    throw new Failed(
      `Another program responds with status ${status}`,
      'Check that the address has the right port and ends in /mcp/NAME.',
    );
  });
  await part('The key is accepted', async () => {
    if (key?.includes(KEY_GAP))
      throw new Failed(
        'The settings still contain the placeholder for the key',
        'Issue a key and replace the placeholder with it.',
      );
    if (key !== null && /^bearer\s/i.test(key.trim()) === false && /\s/.test(key.trim()))
      throw new Failed('The key contains a space', 'Copy the whole key again.');
    const answer = await send(fetch, url, authorization, INITIALIZE);
    const refused = refusal(answer);
    if (refused) throw refused;
    const id = answer.headers.get('mcp-session-id');
    session = { ...authorization, 'mcp-protocol-version': PROTOCOL, ...(id && { 'mcp-session-id': id }) };
    return key === null ? 'The endpoint is open' : 'The key grants access to this endpoint';
  });
  await part('A session starts', async () => {
    const answer = await send(fetch, url, session, { jsonrpc: '2.0', method: 'notifications/initialized' });
    const refused = refusal(answer);
    if (refused) throw refused;
    return `A client of protocol version ${PROTOCOL} is accepted`;
  });
  await part('Tools are listed', async () => {
    const answer = await send(fetch, url, session, { jsonrpc: '2.0', id: 2, method: 'tools/list' });
    const refused = refusal(answer);
    if (refused) throw refused;
    const tools =
      isObject(answer.body.result) && Array.isArray(answer.body.result.tools) ? answer.body.result.tools : [];
    if (tools.length === 0)
      throw new Failed(
        'The tool list is empty',
        'Add a flow to the endpoint, publish its flows, or extend the scope of the key.',
      );
    return `${tools.length} tool${tools.length === 1 ? '' : 's'}: ${tools.map((tool) => String((tool as JsonObject).name)).join(', ')}`;
  });
  await part('Notifications arrive', async () => {
    const stop = new AbortController();
    const timer = setTimeout(() => stop.abort(), PATIENCE);
    try {
      const response = await fetch(url, { headers: { accept: 'text/event-stream', ...session }, signal: stop.signal });
      if (!response.headers.get('content-type')?.startsWith('text/event-stream'))
        throw new Failed(
          `The stream request returned status ${response.status}`,
          'A proxy in between may block streams.',
        );
      const { value } = await response.body!.getReader().read();
      if (!value) throw new Failed('The stream closed immediately', 'A proxy in between may block streams.');
      return 'The stream opens and delivers';
    } catch (error) {
      if (!stop.signal.aborted) throw error;
      throw new Failed(
        'Nothing arrived over the stream',
        'A proxy in between buffers responses; turn its buffering off.',
      );
    } finally {
      clearTimeout(timer);
      stop.abort();
      await send(fetch, url, session, null).catch(() => {});
    }
  });
  const what = 'Every tool can run';
  const found = broken.map(({ name, trouble }) => `${name}: ${trouble}`).join('\n');
  if (broken.length > 0)
    steps.push({ what, state: 'failed', found, fix: 'Fix each one, or remove it from the endpoint; the others work.' });
  else steps.push({ what, state: 'passed', found: 'Nothing was called', fix: null });
  return { ok: !over && broken.length === 0, steps };
}

/** A key as it is in settings: with the scheme Bearer, or alone. */
const headerOf = (key: string): string => (/^bearer\s/i.test(key.trim()) ? key.trim() : `Bearer ${key.trim()}`);
