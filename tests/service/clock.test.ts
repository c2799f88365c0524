import { join } from 'node:path';
import { openDatabase, ServiceClock } from '@pindro/service/parts';
import { expect } from 'chai';
import { discard, furnish, temporary, until, workspace } from '../support/workspace.js';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;

/** A clock that tests set: the wall may jump, the monotonic one only goes on. */
function clock() {
  const begun = Date.now();
  let jump = 0;
  let passed = 0;
  return {
    wall: () => begun + passed + jump,
    monotonic: () => passed,
    /** Time that passes for both. */
    pass: (milliseconds: number) => {
      passed += milliseconds;
    },
    /** What somebody, or the network, does to the wall clock. */
    jump: (milliseconds: number) => {
      jump += milliseconds;
    },
  };
}

describe('a clock that jumps', function () {
  this.timeout(30_000);
  const house = async (time: ReturnType<typeof clock>, data?: string) => {
    const made = await workspace({ time, ...(data && { data }) });
    return made;
  };
  const opens = async (url: string, key: string) =>
    (await fetch(`${url}/api/v1/status`, { headers: { authorization: `Bearer ${key}` } })).status;

  it('revives no expired key, not even across a restart', async () => {
    const data = temporary();
    const time = clock();
    let { service, api, close } = await house(time, data);
    const { key } = await api.issueKey({ body: { name: 'short', expires: '1h', endpoints: [], manage: true } });
    expect(await opens(service.url, key)).to.equal(200);
    time.pass(2 * HOUR);
    expect(await opens(service.url, key)).to.equal(401);
    for (const back of [-HOUR, -2 * HOUR, -400 * DAY]) {
      time.jump(back);
      expect(await opens(service.url, key), String(back)).to.equal(401);
    }
    await close();
    // It starts with a clock that is wrong by more than a year.
    ({ service, close } = await house(time, data));
    expect(await opens(service.url, key)).to.equal(401);
    await close();
    discard(data);
  });

  it('ends a key on time although it was set back meanwhile', async () => {
    const time = clock();
    const { service, api, close } = await house(time);
    const { key } = await api.issueKey({ body: { name: 'short', expires: '2h', endpoints: [], manage: true } });
    time.jump(-HOUR);
    time.pass(1.5 * HOUR);
    expect(await opens(service.url, key)).to.equal(200);
    time.pass(HOUR);
    expect(await opens(service.url, key)).to.equal(401);
    await close();
  });

  it('deletes nothing early: a jump forward is believed once it has lasted', async () => {
    const time = clock();
    const { service, api, close } = await house(time);
    furnish(service);
    const { run } = await api.runFlow({
      name: 'reserve-bunks',
      body: { input: { hut: 'larch', night: '2027-02-14', party: 1 } },
    });
    time.jump(400 * DAY);
    expect((await api.pruneRuns({ body: { olderThanDays: 30 } })).removed).to.equal(0);
    time.pass(HOUR);
    expect((await api.pruneRuns({ body: { olderThanDays: 30 } })).removed).to.equal(0);
    expect((await api.getRun({ id: run })).state).to.equal('done');
    time.pass(DAY);
    await api.status();
    expect((await api.pruneRuns({ body: { olderThanDays: 30 } })).removed).to.equal(1);
    await close();
  });

  it('leaves no approval and no wait hanging', async () => {
    const time = clock();
    const { service, api, close } = await house(time);
    service.flows.drafts.save(
      'format: pindro/flow@1\nname: ask\nsteps:\n  ask: { kind: approve, with: { title: "Close the hut?", expires: 1s } }\n',
    );
    service.flows.drafts.save('format: pindro/flow@1\nname: rest\nsteps:\n  rest: { kind: wait, with: { for: 1s } }\n');
    const asked = await api.runFlow({ name: 'ask', body: { input: {} } });
    const rests = api.runFlow({ name: 'rest', body: { input: {} } });
    await new Promise((resolve) => setTimeout(resolve, 100));
    time.jump(-400 * DAY);
    time.pass(2000);
    expect((await rests).state).to.equal('done');
    await until(async () => (await api.getRun({ id: asked.run })).state === 'failed', 'the question to expire', 10_000);
    await close();
  });

  it('is followed in small steps, and never back', () => {
    const data = temporary();
    const database = openDatabase(join(data, 'pindro.db'), 'config');
    const time = clock();
    const begun = time.wall();
    const clocks = new ServiceClock(database, () => {}, time);
    time.pass(1000);
    expect(clocks.expiry() - begun).to.equal(1000);
    time.jump(60_000);
    expect([clocks.expiry() - begun, clocks.deletion() - begun]).to.deep.equal([61_000, 61_000]);
    time.jump(-30_000);
    expect([clocks.expiry() - begun, clocks.deletion() - begun]).to.deep.equal([61_000, 31_000]);
    // Forward and back again: what was believed in between is not kept.
    time.jump(400 * DAY);
    expect(clocks.expiry() - begun).to.equal(400 * DAY + 31_000);
    expect(clocks.deletion() - begun).to.be.below(HOUR);
    time.jump(-400 * DAY);
    expect(clocks.expiry() - begun).to.be.below(HOUR);
    database.driver.close();
    discard(data);
  });
});
