import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import { callTool, connect, discard, furnish, until, type Workspace, workspace } from '../support/workspace.js';

/** A flow whose record is large and never twice the same. */
const BULKY = `
format: pindro/flow@1
name: bulky
input: { type: object, properties: { n: { type: integer } } }
steps:
  say: { kind: script, with: { code: "let t = ''; for (let i = 0; i < 3000; i++) t += (Math.random() + ' '); return t;" } }
result: { n: "\${ input.n }" }
`;

function offer(house: Workspace): { ines: string } {
  const keys = furnish(house.service);
  house.service.flows.drafts.save(BULKY);
  house.service.flows.revisions.publish('bulky');
  house.service.endpoints.expose('huts', 'bulky', { flow: 'bulky' });
  return keys;
}

/** Every acknowledged run has its record, and none is for ever under way. */
async function expectWhole(house: Workspace, acknowledged: readonly string[]): Promise<void> {
  const states = new Map<string, string>();
  for (let cursor: string | undefined; ; ) {
    const page = await house.api.listRuns({ query: { limit: 200, ...(cursor && { cursor }) } });
    for (const run of page.items) states.set(run.id, run.state);
    if (!page.next) break;
    cursor = page.next;
  }
  for (const run of acknowledged) expect(states.get(run), run).to.equal('done');
  await until(async () => (await house.api.status()).running === 0, 'nothing to be under way');
}

describe('one caller with poisoned requests beside eight others', () => {
  it('costs nobody a record', async () => {
    const house = await workspace();
    const { ines } = offer(house);
    const acknowledged: string[] = [];
    let outgoingValue = true;
    const poison = async (n: number) => {
      const bodies = [
        { input: { n: 'a\0b' }, session: 'a\0b' },
        { input: { 'a\0b': 1 }, session: `s${'x'.repeat(5000)}` },
        { input: { n: 2 ** 60 }, session: `\ud800${n}` },
      ];
      await fetch(`${house.service.url}/api/v1/flows/bulky/run`, {
        method: 'POST',
        headers: { authorization: `Bearer ${house.apiKey}`, 'content-type': 'application/json' },
        body: JSON.stringify(bodies[n % bodies.length]),
      }).then((response) => response.text());
      await fetch(`${house.service.url}/mcp/huts`, {
        method: 'POST',
        headers: {
          authorization: `Bearer ${ines}`,
          'content-type': 'application/json',
          traceparent: 'a\0'.slice(0, 1),
        },
        body: `{"jsonrpc":"2.0","id":${n},"method":"tools/call","params":{"name":"bulky","arguments":{"n":${n},"a\\u0000":"\\u0000"},"_meta":{"traceparent":"\\u0000"}}}`,
      }).then((response) => response.text());
    };
    const poisoner = (async () => {
      for (let n = 0; outgoingValue; n++) await poison(n);
    })();
    await Promise.all(
      Array.from({ length: 8 }, async (_, index) => {
        const client = await connect(house.service, ines);
        for (let turn = 0; turn < 12; turn++) {
          const night = new Date(Date.UTC(2027, 0, 1 + index * 12 + turn)).toISOString().slice(0, 10);
          const answer = await callTool(client, 'reserve_bunks', { hut: 'kestrel', night, party: 1 });
          expect(answer.isError, JSON.stringify(answer.content)).to.not.equal(true);
        }
        await client.close();
      }),
    );
    outgoingValue = false;
    await poisoner;
    const { items } = await house.api.listRuns({ query: { flow: 'reserve-bunks', state: 'done', limit: 200 } });
    expect(items).to.have.length(96);
    acknowledged.push(...items.map(({ id }) => id));
    await expectWhole(house, acknowledged);
    expect((await house.api.tableRows({ name: 'bookings', query: { limit: 200 } })).items).to.have.length(96);
    await house.close();
  });
});

describe('a file system of 14 MB that fills up', () => {
  it('loses no acknowledged call, is still read, and goes on by itself once there is room', async function () {
    this.timeout(120_000);
    const data = mkdtempSync(join(tmpdir(), 'pindro-full-'));
    try {
      execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=14m', 'tmpfs', data], { stdio: 'ignore' });
    } catch {
      discard(data);
      return this.skip();
    }
    try {
      // What is written stands twice while it is taken over from the log that goes before: that must fit once the ballast is gone.
      const ballast = join(data, 'ballast');
      writeFileSync(ballast, Buffer.alloc(9 * 1024 * 1024));
      const house = await workspace({ data });
      const { ines } = offer(house);
      const acknowledged: string[] = [];
      const refusals = new Set<string>();
      const call = async (n: number) => {
        const outcome = await house.api
          .runFlow({ name: 'bulky', body: { input: { n } } })
          .catch((error: { problem?: { code: string; hint: string } }) => {
            refusals.add(`${error.problem?.code}: ${error.problem?.hint}`);
            return null;
          });
        if (outcome?.state === 'done') acknowledged.push(outcome.run);
        return outcome;
      };
      await Promise.all(
        Array.from({ length: 8 }, async (_, index) => {
          for (let turn = 0; turn < 200 && refusals.size === 0; turn++) await call(index * 1000 + turn);
        }),
      );
      expect([...refusals].join()).to.match(/storage_failed: Check the free space/);
      expect(acknowledged.length).to.be.above(20);

      // Nothing can be written; all that is there is read.
      const { bavail, bsize } = statfsSync(data);
      expect(bavail * bsize).to.be.below(1024 * 1024);
      expect(await call(1)).to.equal(null);
      expect((await house.api.getRun({ id: acknowledged[0]! })).state).to.equal('done');
      expect((await house.api.listFlows({})).items).to.have.length(2);
      const client = await connect(house.service, ines);
      expect((await client.listTools()).tools.map(({ name }) => name)).to.include('bulky');
      const told = await callTool(client, 'bulky', { n: 1 });
      expect(told.isError).to.equal(true);
      expect(told.content[0]!.text).to.match(/could not be written: no space is left/);

      rmSync(ballast);
      await until(async () => (await call(2))?.state === 'done', 'the service to go on by itself', 10_000);
      const good = await callTool(client, 'bulky', { n: 3 });
      expect(good.isError, JSON.stringify(good.content)).to.not.equal(true);
      await client.close();
      await expectWhole(house, acknowledged);
      await house.service.close();
      const again = await workspace({ data });
      await expectWhole(again, acknowledged);
      await again.service.close();
    } finally {
      execFileSync('umount', ['-l', data]);
      discard(data);
    }
  });
});
