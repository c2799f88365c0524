import type { JsonObject } from '@pindro/core';
import type { Capability } from '../platform/capability.js';
import { Values } from './values.js';

export const valuesCapability: Capability = {
  name: 'values',
  routes: (api, { servers, flows, runner, tables }) => {
    const values = new Values({ servers, flows, runner, tables });
    api.on('listValues', ({ body, who, signal }) =>
      values.find({ ...body, arguments: body.arguments as JsonObject }, who.caller, signal),
    );
  },
};
