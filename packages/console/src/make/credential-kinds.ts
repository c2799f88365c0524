import type { CredentialSummary } from '@pindro/contract/light';

export type CredentialKind = CredentialSummary['kind'];

/** Descriptions of credential kinds. */
export const CREDENTIAL_KINDS: Record<CredentialKind, string> = {
  bearer: 'Bearer key',
  header: 'Key in a header',
  query: 'Key in the query string',
  path: 'Key in the path of the address',
  basic: 'User name and password',
  environment: 'Value for a program',
  certificate: 'Client certificate with its key',
};
