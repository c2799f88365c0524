const WORDS: Record<string, string> = {
  ECONNREFUSED: 'connection refused',
  ENOTFOUND: 'the host name cannot be resolved',
  EAI_AGAIN: 'DNS is temporarily unavailable',
  EHOSTUNREACH: 'no route to the host',
  ENETUNREACH: 'no route to the network',
  ETIMEDOUT: 'no response in time',
  UND_ERR_CONNECT_TIMEOUT: 'no response in time',
  DEPTH_ZERO_SELF_SIGNED_CERT: 'its certificate is self-signed; trust its authority on the page of the server',
  SELF_SIGNED_CERT_IN_CHAIN:
    'its certificate comes from an authority that is not trusted; trust it on the page of the server',
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: 'its certificate comes from an unknown authority',
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: 'its certificate comes from an unknown authority',
  CERT_HAS_EXPIRED: 'its certificate has expired',
  CERT_NOT_YET_VALID: 'its certificate is not valid yet',
  ERR_TLS_CERT_ALTNAME_INVALID: 'its certificate is for another name',
  ERR_SSL_WRONG_VERSION_NUMBER: 'it does not use TLS on this port; the address may need to start with http://',
  ERR_SSL_TLSV13_ALERT_CERTIFICATE_REQUIRED: 'it requires a client certificate',
  ECONNRESET: 'the connection was closed',
  EPIPE: 'the connection was closed',
  UND_ERR_SOCKET: 'the connection was closed',
};

/** What comes without a code. */
const PLAIN: Record<string, string> = {
  terminated: 'the connection was closed',
  'bad port': 'HTTP requests to this port are not allowed',
};

/** The system's code for why a connection failed, dug out of the nested causes. */
export function networkCode(error: unknown): string | undefined {
  for (let here = error, depth = 0; here && depth < 6; depth++) {
    const { code, cause, errors } = here as { code?: unknown; cause?: unknown; errors?: unknown[] };
    if (typeof code === 'string' && code in WORDS) return code;
    here = cause ?? errors?.[0];
  }
  return undefined;
}

/** Whether the other side was never reached, so that nothing can have happened there. */
export function neverReached(error: unknown): boolean {
  const code = networkCode(error);
  return code !== undefined && !['ECONNRESET', 'EPIPE', 'UND_ERR_SOCKET'].includes(code);
}

/** Why a connection failed. */
export function reasonOf(error: unknown): string {
  const code = networkCode(error);
  if (code) return WORDS[code]!;
  const cause = (error as { cause?: unknown })?.cause;
  const text = cause instanceof Error ? cause.message : error instanceof Error ? error.message : String(error);
  return PLAIN[text] ?? text;
}
