import { defineCapability } from '../platform/capability.js';
import { mailboxRoutes } from './routes.js';

export const mailboxCapability = defineCapability({
  name: 'mailbox',
  needs: ['outside'],
  routes: (api, { settings, outside }) =>
    mailboxRoutes(api, settings.mailbox, (address, init) => outside.fetchConfigured(address, init)),
});
