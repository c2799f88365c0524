import { mail } from '@pindro/contract';
import { z } from 'zod';
import type { Api } from '../platform/api.js';
import type { Outside } from '../platform/reach/outside.js';

const inbox = z.object({ items: z.array(mail) });

/** Shows the mailbox stand-in, where there is one. */
export function mailboxRoutes(api: Api, address: string | undefined, fetch: Outside['fetchConfigured']): void {
  api.on('listMails', async ({ signal }) => {
    if (!address) return { items: [] };
    const response = await fetch(`${address}/messages`, { signal });
    return inbox.parse(await response.json());
  });
}
