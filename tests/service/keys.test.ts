import { join } from 'node:path';
import type { PindroError } from '@pindro/core';
import { Bus } from '@pindro/service';
import { KeyStore, openDatabase, permitKeys } from '@pindro/service/parts';
import { expect } from 'chai';
import { discard, temporary, type Workspace, workspace } from '../support/workspace.js';

const OWNER = permitKeys({ name: 'marit', role: 'owner' });
const BUILDER = permitKeys({ name: 'ines', role: 'builder' });
const HOUR = 3_600_000;

const codeOf = (work: () => unknown): string | null => {
  try {
    work();
    return null;
  } catch (error) {
    return (error as PindroError).code;
  }
};

describe('access keys', () => {
  const data = temporary();
  const database = openDatabase(join(data, 'pindro.db'), 'config');
  let now = Date.UTC(2026, 8, 19);
  const clocks = { wall: () => now, expiry: () => now, deletion: () => now };
  const keys = new KeyStore(database, new Bus(), clocks);
  after(() => {
    database.driver.close();
    discard(data);
  });
  const plain = { name: 'desk', attributes: {}, stage: 'live' as const, endpoints: ['huts'], manage: false };

  it('that open the API are issued, changed, copied and revoked by owners alone', () => {
    const { summary, key } = keys.issue({ ...plain, name: 'api', manage: true }, OWNER);
    expect(codeOf(() => keys.issue({ ...plain, manage: true }, BUILDER))).to.equal('role_too_low');
    expect(codeOf(() => keys.change(summary.id, { name: 'mine' }, BUILDER))).to.equal('role_too_low');
    expect(codeOf(() => keys.copy(summary.id, 'mine', 'ines', BUILDER))).to.equal('role_too_low');
    expect(codeOf(() => keys.revoke(summary.id, BUILDER))).to.equal('role_too_low');
    expect(keys.summary(summary.id)).to.deep.include({ name: 'api', revokedAt: null });
    expect(keys.present(`Bearer ${key}`).id).to.equal(summary.id);
    expect(codeOf(() => keys.change(keys.issue(plain, BUILDER).summary.id, { name: 'mine' }, BUILDER))).to.equal(null);
  });

  it('keep what is not said as it is, and have no restriction that nobody set', () => {
    const { summary } = keys.issue(plain, OWNER);
    expect(summary).to.deep.include({
      ...{ caller: 'desk', tools: null, readOnly: false, perMinute: null, propose: false, expiresAt: null },
      ...{ credentials: {}, manage: false },
    });
    keys.change(summary.id, { tools: ['reserve'], perMinute: 3 }, OWNER);
    expect(keys.change(summary.id, {}, OWNER)).to.deep.include({ tools: ['reserve'], perMinute: 3, name: 'desk' });
    expect(keys.list().filter(({ id }) => id === summary.id)).to.have.length(1);
  });

  it('expire at their time, also while a connection is open, and not before', () => {
    const { key, summary } = keys.issue({ ...plain, expires: '1h' }, OWNER);
    const held = keys.hold(`Bearer ${key}`);
    now += HOUR - 1;
    expect([keys.isStill(held), keys.isGood(summary.id)]).to.deep.equal([true, true]);
    now += 1;
    expect([keys.isStill(held), keys.isGood(summary.id)]).to.deep.equal([false, false]);
    expect(codeOf(() => keys.present(`Bearer ${key}`))).to.equal('key_expired');
    keys.change(summary.id, { expires: '1h' }, OWNER);
    expect(keys.present(`Bearer ${key}`).id).to.equal(summary.id);
  });

  it('that were revoked open nothing more', () => {
    const { key, summary } = keys.issue({ ...plain, name: 'gone' }, OWNER);
    const held = keys.hold(`Bearer ${key}`);
    expect(keys.opening('huts')).to.include('key "gone"');
    keys.revoke(summary.id, OWNER);
    expect([keys.isStill(held), keys.isGood(summary.id)]).to.deep.equal([false, false]);
    expect(codeOf(() => keys.present(`Bearer ${key}`))).to.equal('key_revoked');
    expect(keys.opening('huts')).to.not.include('key "gone"');
  });

  it('are told from what is none', () => {
    const { key } = keys.issue(plain, OWNER);
    expect(codeOf(() => keys.present(undefined))).to.equal('not_signed_in');
    expect(codeOf(() => keys.present(key))).to.equal('key_without_bearer');
    expect(codeOf(() => keys.present('Basic aW5lczppbmVz'))).to.equal('not_signed_in');
    expect(codeOf(() => keys.present(`Bearer ${key}x`))).to.equal('key_unknown');
    expect(keys.present(`bearer  ${key} `).name).to.equal('desk');
  });
});

describe('the secret of a credential', () => {
  let house: Workspace;
  before(async () => {
    house = await workspace();
  });
  after(() => house.close());

  for (const [what, given, at] of [
    ['is too short to be masked', { secret: 'abc' }, '/secret'],
    ['has a line break', { secret: 'first-line\nsecond' }, '/secret'],
    ['repeats the scheme', { secret: 'Bearer lift-key-one' }, '/secret'],
    ['is in a header without a name', { kind: 'header', secret: 'lift-key-one' }, '/header'],
    ['is in a header whose name is none', { kind: 'header', header: 'X Key', secret: 'lift-key-one' }, '/header'],
    ['is in a parameter whose name is none', { kind: 'query', header: 'a b', secret: 'lift-key-one' }, '/header'],
    ['is in a path without a placeholder', { kind: 'path', header: 'A B', secret: 'lift-key-one' }, '/header'],
    ['is no certificate with its key', { kind: 'certificate', secret: 'lift-key-one' }, '/secret'],
  ] as const)
    it(`is refused where it ${what}`, async () => {
      const body = { name: 'odd', ...given } as Parameters<typeof house.api.addCredential>[0]['body'];
      const { problem } = await house.api.addCredential({ body }).then(
        () => ({ problem: null }),
        (error: { problem: { code: string; at?: string } }) => error,
      );
      expect(problem).to.deep.include({ code: 'request_invalid', at });
      expect((await house.api.listCredentials({ query: {} })).items).to.deep.equal([]);
    });
});
