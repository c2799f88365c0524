import { mayUse } from '@pindro/contract';
import { type JsonObject, PindroError } from '@pindro/core';
import { defineCapability } from '../platform/capability.js';
import { Values } from './values.js';

declare module '../platform/capability.js' {
  interface Parts {
    values: Values;
  }
}

export const valuesCapability = defineCapability({
  name: 'values',
  needs: ['flows', 'runner', 'servers', 'tables'],
  gives: ['values'],
  open: ({ servers, flows, runner, tables }) => ({ values: new Values({ servers, flows, runner, tables }) }),
  routes: (api, { values }) => {
    api.on('listValues', ({ body, who, signal }) => {
      // Operators cannot choose the account a server is called with.
      if (body.credential !== undefined && !mayUse(who.role, 'builder'))
        throw new PindroError('role_too_low', { name: who.name, role: who.role, needed: 'builder' });
      return values.find({ ...body, arguments: body.arguments as JsonObject }, who.caller, signal);
    });
  },
});
