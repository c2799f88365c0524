import { mayUse, ROLES, type Role, type Route, routes } from '@pindro/contract';
import { expect } from 'chai';
import { furnish, type Workspace, workspace } from '../support/workspace.js';

describe('rank', () => {
  let house: Workspace;
  let owners: Record<string, string>;
  const cookies: Partial<Record<Role, string>> = {};
  before(async () => {
    house = await workspace();
    furnish(house.service);
    const { summary } = house.service.keys.issue({
      name: 'of the owner',
      attributes: {},
      stage: 'live',
      endpoints: ['*'],
      manage: true,
    });
    const { run } = await house.api.runFlow({
      name: 'reserve-bunks',
      body: { input: { hut: 'larch', night: '2027-02-14', party: 1 } },
    });
    owners = { id: summary.id, name: 'owner', run, path: '', flow: 'reserve-bunks' };
    for (const role of ROLES) {
      const { url } = await house.api.addPerson({ body: { name: `a-${role}`, role } });
      const answer = await fetch(url, { redirect: 'manual' });
      cookies[role] = answer.headers.get('set-cookie')!.split(';')[0]!;
    }
  });
  after(() => house.close());

  const call = async (
    role: Role,
    route: Pick<Route, 'method' | 'path'>,
    body: object,
    named: Record<string, string>,
  ) => {
    const path = route.path.replaceAll(/:(\w+)/g, (_, name: string) => encodeURIComponent(named[name] ?? 'nothing'));
    const response = await fetch(`${house.service.url}/api/v1${path}`, {
      method: route.method,
      headers: { cookie: cookies[role]!, origin: house.service.url, 'content-type': 'application/json' },
      ...(route.method !== 'GET' && { body: JSON.stringify(body) }),
    });
    const text = response.headers.get('content-type')?.startsWith('text/event-stream') ? '' : await response.text();
    if (text === '') await response.body?.cancel();
    return { status: response.status, text };
  };
  const open = async () => JSON.stringify([await house.api.listKeys(), await house.api.listPeople()]);

  it('is the same for changing a key as for making it', async () => {
    for (const role of ['builder', 'operator', 'viewer'] as const)
      for (const [route, body] of [
        [routes.rotateKey, { overlap: '1h' }],
        [routes.revokeKey, {}],
        [routes.issueKey, { name: 'mine', endpoints: ['*'], manage: true, stage: 'live' }],
        [routes.updateKey, { name: 'mine', endpoints: ['*'] }],
        [routes.copyKey, { name: 'mine' }],
        [routes.removeKey, {}],
      ] as const) {
        const { status, text } = await call(role, route, body, owners);
        expect(status, `${role} ${route.path}`).to.equal(403);
        expect(text).to.contain('role_too_low').and.not.contain('pindro_');
      }
    const plain = house.service.keys.issue({
      name: 'plain',
      attributes: {},
      stage: 'live',
      endpoints: ['huts'],
      manage: false,
    });
    expect((await call('builder', routes.rotateKey, {}, { id: plain.summary.id })).status).to.equal(200);
    expect(house.service.keys.isGood(owners.id!)).to.equal(true);
  });

  it('lets who may only run flows do a run again, and not say what is in it', async () => {
    const input = { hut: 'larch', night: '2027-03-01', party: 1 };
    const { run } = await house.api.runFlow({ name: 'reserve-bunks', body: { input } });
    const again = (body: object) =>
      call('operator', routes.retryRun, { from: 'place', live: true, ...body }, { id: run });
    expect((await again({})).status).to.equal(200);
    for (const body of [{ set: { '/steps/place/with/table': 'bookings' } }, { model: 'house' }]) {
      const { status, text } = await again(body);
      expect(status).to.equal(403);
      expect(text).to.contain('role_too_low');
    }
  });

  it('lets nobody reach an owner’s objects by any route, whatever is sent', async function () {
    this.timeout(60_000);
    const before = await open();
    const names = Object.keys(routes).filter((name) => !['events', 'signOut'].includes(name));
    for (const role of ['viewer', 'operator', 'builder'] as const)
      for (const name of names) {
        const route: Route = routes[name as keyof typeof routes];
        const { status, text } = await call(role, route, { role: 'owner', person: 'owner', manage: true }, owners);
        expect(status, `${role} at ${name}: ${text.slice(0, 200)}`).to.be.below(500);
        if (!mayUse(role, route.role)) expect(status, `${role} at ${name}`).to.equal(403);
        expect(text, `${role} at ${name}`).to.not.match(/"key":"pindro_/);
      }
    // All of an owner's keys and people stand as they were.
    const after = await open();
    const keysOf = (text: string) =>
      (JSON.parse(text) as [{ items: { id: string; manage: boolean; revokedAt: string | null }[] }])[0].items
        .filter(({ manage }) => manage)
        .map(({ id, revokedAt }) => `${id} ${revokedAt}`);
    expect(keysOf(after)).to.deep.equal(keysOf(before));
    const peopleOf = (text: string) =>
      JSON.stringify(
        (JSON.parse(text) as [object, { items: { name: string; role: string }[] }])[1].items.map(({ name, role }) => [
          name,
          role,
        ]),
      );
    expect(peopleOf(after)).to.equal(peopleOf(before));
  });
});
