import { z } from 'zod';
import * as r from '../resources.js';
import type { Route } from './route.js';

/** The mailbox stand-in. */
export const mailbox = {
  listMails: {
    method: 'GET',
    role: 'viewer',
    path: '/mailbox',
    about: 'Lists mails in the mailbox stand-in',
    answer: z.object({ items: z.array(r.mail) }),
  },
} as const satisfies Record<string, Route>;
