export type CredentialKind = 'bearer' | 'header' | 'basic';

/** How a credential goes along, in words. */
export const CREDENTIAL_KINDS: Record<CredentialKind, string> = {
  bearer: 'Bearer key',
  header: 'Key in a header',
  basic: 'User name and password',
};
