import type { Capability } from '../platform/capability.js';
import { mailboxRoutes } from './routes.js';

export const mailboxCapability: Capability = {
  name: 'mailbox',
  routes: (api, { settings }) => mailboxRoutes(api, settings.mailbox),
};
