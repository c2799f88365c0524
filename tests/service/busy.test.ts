import { expect } from 'chai';
import { besideBusyLoops } from '../support/busy.js';
import { startReady } from '../support/process.js';
import { callTool, connect, discard, furnish, temporary, workspace } from '../support/workspace.js';

const LOOPS = 8;

/* Correct work never fails because the machine is busy: limits count work, and clocks wait for others alone. */
describe('beside eight busy loops', function () {
  this.timeout(600_000);

  it('a service answers fifty callers', async () => {
    const house = await workspace();
    const keys = furnish(house.service);
    const expression = {
      value: '${ input.rows.filter(r, r.party > 2 && r.hut in input.huts).map(r, r.party + 1) }',
      input: {
        huts: ['larch', 'kestrel'],
        rows: Array.from({ length: 200 }, (_, n) => ({ hut: 'larch', party: n % 7 })),
      },
      steps: {},
    };
    await besideBusyLoops(LOOPS, async () => {
      const clients = [];
      for (let n = 0; n < 50; n++) clients.push(await connect(house.service, n % 2 ? keys.ines : keys.tobias));
      const answers = await Promise.all(
        clients.map(async (client, index) => {
          const said = [];
          for (let turn = 0; turn < 4; turn++)
            said.push(
              await callTool(client, 'reserve_bunks', {
                hut: 'larch',
                night: `2027-03-${10 + (index % 20)}`,
                party: 1,
              }),
            );
          return said;
        }),
      );
      const wrong = answers
        .flat()
        .filter(({ isError, content }) => isError && !content[0]!.text.includes('has no room'))
        .map(({ content }) => content[0]!.text);
      expect(wrong).to.deep.equal([]);
      for (let n = 0; n < 20; n++)
        expect((await house.api.evaluate({ body: expression })).error ?? null).to.equal(null);
      for (const client of clients) await client.close();
    });
    await house.close();
  });

  it('the demo starts, with all of its examples', async () => {
    const data = temporary();
    await besideBusyLoops(LOOPS, async () => {
      const demo = await startReady<{ failedRuns: string[]; flows: string[] }>([
        ...['demo', '--json', '--port', '0', '--data', data],
      ]);
      expect(demo.contract.failedRuns).to.deep.equal([]);
      expect(demo.contract.flows).to.include('warden-desk');
      await demo.stop();
    });
    discard(data);
  });
});
