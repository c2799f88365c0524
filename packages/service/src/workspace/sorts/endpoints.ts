import type { JsonObject } from '@pindro/core';
import { asJson } from '@pindro/core';
import { defineSort } from './sort.js';

/** Endpoint documents. They are checked and kept by the endpoints themselves. */
export const endpoints = defineSort<JsonObject>({
  at: 'endpoints',
  named: 'name',
  write: ({ endpoints }) =>
    Object.fromEntries(endpoints.names().map((name) => [`endpoints/${name}.yaml`, asJson(endpoints.get(name))])),
});
