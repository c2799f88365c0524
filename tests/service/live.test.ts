import type { StreamEvent } from '@pindro/contract';
import type { Lift } from '@pindro/standins';
import { expect } from 'chai';
import { furnish, LIFT_KEY, RESERVE, startTestLift, until, type Workspace, workspace } from '../support/workspace.js';

describe('what changes, as it changes', () => {
  let house: Workspace;
  let lift: Lift;
  before(async () => {
    house = await workspace();
    furnish(house.service);
    lift = await startTestLift({ delay: 300 });
    await house.service.servers.attach({ name: 'lift', url: lift.url, credential: null, secret: LIFT_KEY, rules: {} });
    house.service.flows.drafts.save(
      'format: pindro/flow@1\nname: slow\nsteps: { a: { kind: tool, with: { server: lift, tool: lift_status } } }\nresult: "${ steps.a.data.running }"',
    );
  });
  after(async () => {
    await house.close();
    await lift.close();
  });

  /** Collects what is told while some work is done. */
  const during = async (work: () => Promise<unknown>): Promise<StreamEvent[]> => {
    const stop = new AbortController();
    const seen: StreamEvent[] = [];
    const reading = (async () => {
      for await (const event of house.api.events({ signal: stop.signal })) seen.push(event);
    })().catch(() => {});
    await new Promise((resolve) => setTimeout(resolve, 60));
    await work();
    await new Promise((resolve) => setTimeout(resolve, 150));
    stop.abort();
    await reading;
    return seen;
  };
  const changed = (events: StreamEvent[]) =>
    events.flatMap((event) => (event.type === 'changed' ? [`${event.what} ${event.name}`] : []));

  it('is told for every kind of thing', async () => {
    const events = await during(async () => {
      await house.api.importFlow({ body: { document: RESERVE.replace('name: reserve-bunks', 'name: another') } });
      await house.api.exposeFlow({ name: 'another', body: { endpoint: 'fresh' } });
      await house.api.addCredential({ body: { name: 'c', secret: 'abcdef' } });
      await house.api.createTable({ body: { name: 't', columns: { a: 'text' } } });
      await house.api.addRow({ name: 't', body: { row: { a: 'x' } } });
      await house.api.refreshServer({ name: 'lift' });
    });
    expect(changed(events)).to.include.members([
      'flow another',
      'endpoint fresh',
      'credential c',
      'table t',
      'server lift',
    ]);
    expect(changed(events).some((line) => line.startsWith('key k'))).to.equal(true);
  });

  it('tells the end of a run once, and the beginning of one that takes its time', async () => {
    const states = (events: StreamEvent[]) =>
      events.flatMap((event) => (event.type === 'run' ? [event.run.state] : []));
    const input = { hut: 'larch', night: '2027-02-14', party: 1 };
    const short = states(await during(() => house.api.runFlow({ name: 'reserve-bunks', body: { input } })));
    // How short a run is depends on the machine; that its end is told once does not.
    expect(short.filter((state) => state === 'done')).to.have.length(1);
    expect(states(await during(() => house.api.runFlow({ name: 'slow', body: {} })))).to.deep.equal([
      'running',
      'done',
    ]);
  });

  it('shows a run step by step, and its outcome last', async () => {
    const events: StreamEvent[] = [];
    for await (const event of house.api.watchFlow({
      name: 'reserve-bunks',
      body: { input: { hut: 'larch', night: '2027-02-15', party: 1 } },
    }))
      events.push(event);
    const told = events.map((event) =>
      event.type === 'live'
        ? `${(event.live as { path: string }).path} ${(event.live as { state: string }).state}`
        : event.type,
    );
    expect(told).to.deep.equal(['place running', 'place done', 'book running', 'book done', 'full skipped', 'outcome']);
  });

  it('goes on with a run when whoever watched it leaves', async () => {
    const stop = new AbortController();
    const watching = (async () => {
      for await (const event of house.api.watchFlow({ name: 'slow', body: { session: 'left' }, signal: stop.signal }))
        if (event.type === 'live') stop.abort();
    })().catch(() => {});
    await watching;
    const run = await until(
      async () => (await house.api.listRuns({ query: { session: 'left' } })).items.find((one) => one.endedAt !== null),
      'the run to end',
    );
    expect(run.state).to.equal('done');
  });

  it('cancels a run under way, and refuses to cancel one that is over', async () => {
    const outcome = house.api.runFlow({ name: 'slow', body: { session: 'stop-me' } });
    const run = await until(
      async () => (await house.api.listRuns({ query: { session: 'stop-me' } })).items[0],
      'the run to begin',
    );
    await house.api.cancelRun({ id: run.id });
    expect((await outcome).state).to.equal('cancelled');
    expect((await house.api.getRun({ id: run.id })).state).to.equal('cancelled');
    const again = await house.api.cancelRun({ id: run.id }).catch((error) => error.problem);
    expect(again.detail).to.contain('it is cancelled');
  });
});
