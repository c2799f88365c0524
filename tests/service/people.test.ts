import { mayUse, ProblemError, ROLES, type Role, type Route, routes } from '@pindro/contract';
import { expect } from 'chai';
import { type Workspace, workspace } from '../support/workspace.js';

describe('people of the console', () => {
  let house: Workspace;
  before(async () => {
    house = await workspace();
  });
  after(() => house.close());

  const own = (cookie: string) => ({ cookie, origin: house.service.url, 'content-type': 'application/json' });
  /** The cookie that a link is traded for. */
  const follow = async (url: string): Promise<string> => {
    const response = await fetch(url, { redirect: 'manual' });
    expect(response.status).to.equal(303);
    const set = response.headers.get('set-cookie')!;
    expect(set).to.contain('HttpOnly').and.contain('SameSite=Strict');
    return set.split(';')[0]!;
  };
  const enter = (name: string, password: string) =>
    fetch(`${house.service.url}/sign-in`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name, password }),
    });
  const call = async (cookie: string, route: Route, headers: Record<string, string> = {}) => {
    const path = route.path.replaceAll(/:\w+/g, 'nothing-of-that-name');
    const response = await fetch(`${house.service.url}/api/v1${path}`, {
      method: route.method,
      headers: { ...own(cookie), ...headers },
      ...(route.method !== 'GET' && { body: '{}' }),
    });
    const streams = response.headers.get('content-type')?.startsWith('text/event-stream');
    if (streams) await response.body?.cancel();
    const body = streams ? {} : ((await response.json().catch(() => ({}))) as { code?: string });
    return { status: response.status, code: body.code };
  };
  const refusal = async (work: Promise<unknown>): Promise<string> => {
    const error = await work.then(() => null).catch((thrown: unknown) => thrown);
    expect(error).to.be.instanceOf(ProblemError);
    return (error as ProblemError).problem.code;
  };

  it('may do just what the table of roles says, on every route', async function () {
    this.timeout(120_000);
    // What ends the session that asks is asked last.
    const names = Object.keys(routes).filter((name) => name !== 'signOut' && name !== 'events');
    for (const role of ROLES) {
      const { url } = await house.api.addPerson({ body: { name: `a-${role}`, role } });
      const cookie = await follow(url);
      for (const name of [...names, 'signOut']) {
        const route: Route = routes[name as keyof typeof routes];
        const { code } = await call(cookie, route);
        const refused = code === 'role_too_low';
        expect(refused, `${role} at ${name}`).to.equal(!mayUse(role as Role, route.role));
      }
      expect((await call(cookie, routes.whoAmI)).status, `${role} after signing out`).to.equal(401);
    }
  });

  it('sign in by a password, which is kept as nothing but its scrypt hash', async () => {
    const password = 'a quiet hut on the ridge';
    await house.api.addPerson({ body: { name: 'tobias', role: 'operator', password } });
    const response = await enter('tobias', password);
    expect(response.status).to.equal(200);
    const cookie = response.headers.get('set-cookie')!.split(';')[0]!;
    const me = await fetch(`${house.service.url}/api/v1/me`, { headers: { cookie } }).then((answer) => answer.json());
    expect(me).to.deep.equal({ name: 'tobias', role: 'operator', hasPassword: true });
    for (const [name, given] of [
      ['tobias', 'wrong password'],
      ['nobody', password],
      ['tobias', ''],
    ] as const) {
      const refused = await enter(name, given);
      expect([refused.status, ((await refused.json()) as { code: string }).code]).to.deep.equal([
        401,
        'password_wrong',
      ]);
    }
    // A new password ends the sessions there are.
    await house.api.updatePerson({ name: 'tobias', body: { password: 'another night in the hut' } });
    expect((await call(cookie, routes.whoAmI)).status).to.equal(401);
    expect((await enter('tobias', password)).status).to.equal(401);
    expect(await refusal(house.api.addPerson({ body: { name: 'tobias' } }))).to.equal('already_there');
    expect(await refusal(house.api.addPerson({ body: { name: 'x', password: 'short' } }))).to.equal('request_invalid');
  });

  it('cannot be acted for by another page', async () => {
    const { url } = await house.api.addPerson({ body: { name: 'marit', role: 'owner' } });
    const cookie = await follow(url);
    const post = (headers: Record<string, string>) =>
      fetch(`${house.service.url}/api/v1/people`, {
        method: 'POST',
        headers: { cookie, 'content-type': 'application/json', ...headers },
        body: JSON.stringify({ name: 'intruder', role: 'owner' }),
      }).then(async (response) => ((await response.json()) as { code?: string }).code);
    expect(await post({})).to.equal('page_unknown');
    expect(await post({ origin: 'http://elsewhere.example' })).to.equal('origin_refused');
    expect((await house.api.listPeople()).items.map(({ name }) => name)).to.not.include('intruder');
    expect(await post({ origin: house.service.url })).to.equal(undefined);
    await house.api.removePerson({ name: 'intruder' });
  });

  it('are never left without an owner, and go at once when they are taken out', async () => {
    const { url } = await house.api.addPerson({ body: { name: 'guest', role: 'viewer' } });
    const cookie = await follow(url);
    expect((await call(cookie, routes.listFlows)).status).to.equal(200);
    await house.api.updatePerson({ name: 'guest', body: { role: 'builder' } });
    expect((await call(cookie, routes.createTable)).code).to.equal('request_invalid');
    await house.api.removePerson({ name: 'guest' });
    expect((await call(cookie, routes.listFlows)).status).to.equal(401);
    for (const { name, role } of (await house.api.listPeople()).items)
      if (role === 'owner' && name !== 'owner') await house.api.removePerson({ name });
    expect(await refusal(house.api.removePerson({ name: 'owner' }))).to.equal('last_owner');
    expect(await refusal(house.api.updatePerson({ name: 'owner', body: { role: 'viewer' } }))).to.equal('last_owner');
  });
});
