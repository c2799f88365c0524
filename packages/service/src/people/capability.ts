import { PindroError } from '@pindro/core';
import express from 'express';
import { rateLimit } from 'express-rate-limit';
import { defineCapability } from '../platform/capability.js';
import { signInPage, signInWithPassword } from './identify.js';
import { servedPeople } from './resource.js';
import { peopleRoutes } from './routes.js';
import { PeopleStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    people: PeopleStore;
  }
}

const refuseMany = () => {
  throw new PindroError('too_many_requests');
};

export const peopleCapability = defineCapability({
  name: 'people',
  needs: ['clocks', 'config', 'former'],
  gives: ['people'],
  open: ({ config, bus, former, clocks }) => ({ people: new PeopleStore(config, bus, former, clocks) }),
  resources: ({ people }) => [servedPeople(people)],
  routes: (api, { people, address }) => peopleRoutes(api, people, address),
  pages: (app, { people, settings }) => {
    const secure = settings.publicUrl?.startsWith('https:') ?? false;
    app.get('/sign-in', rateLimit({ windowMs: 60_000, limit: 30, handler: refuseMany }), signInPage(people, secure));
    app.post(
      '/sign-in',
      rateLimit({ windowMs: 60_000, limit: 10, handler: refuseMany }),
      express.json({ limit: 4096 }),
      signInWithPassword(people, secure),
    );
  },
});
