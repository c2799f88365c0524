import type { Capability } from '../platform/capability.js';
import { mailboxRoutes } from './routes.js';

export const mailboxCapability: Capability = {
  name: 'mailbox',
  routes: (api, { settings, outside }) =>
    mailboxRoutes(api, settings.mailbox, (address, init) => outside.fetchConfigured(address, init)),
};
