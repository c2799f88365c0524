import type { Transport } from '@modelcontextprotocol/sdk/shared/transport.js';

/** The version of the protocol that was agreed on, which the client library tells its transport. */
export function versionOf(transport: Transport): () => string {
  let version = '';
  const own = transport.setProtocolVersion?.bind(transport);
  transport.setProtocolVersion = (agreed) => {
    version = agreed;
    own?.(agreed);
  };
  return () => version;
}

const LONGEST_WANT = 200;
/** Maximum length of a checked refusal, in characters. */
const LOOKED_AT = 20_000;
/** What a refusal says of what is wanted: the server's own words. */
export async function wantedBy(response: Response): Promise<string> {
  const header = response.headers.get('www-authenticate') ?? '';
  const body = await response
    .clone()
    .text()
    .catch(() => '');
  const words = body
    .slice(0, LOOKED_AT)
    .replaceAll(/<[^<>]*>/g, ' ')
    .replaceAll(/\s+/g, ' ')
    .trim();
  return [header, words]
    .filter(Boolean)
    .map((one) => `“${one.slice(0, LONGEST_WANT)}”`)
    .join(' ');
}
