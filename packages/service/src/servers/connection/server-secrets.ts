import { credentialsIn, type Program, type ServerNetwork } from '@pindro/contract';
import type { CredentialStore } from '../../credentials/store.js';
import type { SecretUse } from '../../policy/secrets.js';
import { placeOf, revealKept } from '../calling/secrets.js';
import { credentialsOf, type ServerRow } from '../repository.js';
import type { Revealed } from './connection.js';

/** Collects what is sent to a server: headers, credentials, and the values of its program. */
export class ServerSecrets {
  constructor(private readonly credentials: CredentialStore) {}

  /** What is sent with each request to a server, or passed to its program. */
  reveal(
    row: Pick<ServerRow, 'headers' | 'credential' | 'also' | 'program' | 'network'>,
    url: string,
    older = false,
  ): Revealed {
    const use = { url: placeOf({ url, program: row.program ?? null }) };
    const own = credentialsOf({ ...row, program: null, network: {} }).map((name) =>
      older ? this.credentials.revealFormer(name, use) : this.credentials.reveal(name, use),
    );
    const values = row.program ? [this.valuesOf(row.program, use)] : [];
    return revealKept([{ headers: row.headers, secrets: [] }, ...own, ...values, this.networkOf(row.network, use)]);
  }

  /** The way to a server, with the certificate that we show there. */
  networkOf({ ca, proxy, certificate }: ServerNetwork, use: SecretUse): Revealed {
    const identity = certificate === undefined ? undefined : this.credentials.value(certificate, use);
    const network = { ...(ca && { ca }), ...(proxy && { proxy }), ...(identity && { identity }) };
    return { headers: {}, secrets: identity ? [identity] : [], network };
  }

  /** What a program is given of credentials. @param others that are known already */
  valuesOf(program: Program, use: SecretUse, others: readonly string[] = []): Revealed {
    const names = credentialsIn(program).filter((name) => !others.includes(name));
    const values = Object.fromEntries(names.map((name) => [name, this.credentials.value(name, use)]));
    return { headers: {}, secrets: Object.values(values), values };
  }
}
