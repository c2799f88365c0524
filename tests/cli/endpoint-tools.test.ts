import { expect } from 'chai';
import { pindro } from '../support/process.js';
import { connect, furnish, LIFT_KEY, startTestLift, type Workspace, workspace } from '../support/workspace.js';

describe('endpoints and their words at the command line', function () {
  this.timeout(120_000);
  let house: Workspace;
  let key: string;
  before(async () => {
    house = await workspace();
    key = furnish(house.service).ines;
  });
  after(() => house.close());
  const run = async (...args: string[]) => {
    const env = { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey };
    return pindro(args, { env });
  };
  const shown = async () => {
    const client = await connect(house.service, key);
    const { tools } = await client.listTools();
    await client.close();
    return tools;
  };

  it('sets, words and leaves out arguments, and takes words back', async () => {
    const worded = await run(
      ...['endpoint', 'describe-tool', 'huts', 'reserve_bunks'],
      ...['--set', 'hut=larch', '--describe', 'night=The night, as 2027-02-14', '--description', 'Reserve a bed.'],
    );
    expect(worded.code, worded.err).to.equal(0);
    const [tool] = await shown();
    expect(tool!.description).to.equal('Reserve a bed.');
    expect(tool!.inputSchema.properties).to.have.all.keys('night', 'party');
    expect(tool!.inputSchema.properties!.night).to.include({ description: 'The night, as 2027-02-14' });
    await run('endpoint', 'describe-tool', 'huts', 'reserve_bunks', '--description', '');
    expect((await shown())[0]!.description).to.equal('Reserve bunks in one hut for one night.');

    const wrong = await run('endpoint', 'describe-tool', 'huts', 'reserve_bunks', '--set', 'party=many');
    expect(wrong.code).to.equal(1);
    expect(wrong.err).to.contain('The value set for "party" of reserve_bunks is invalid');
    const omitted = await run('endpoint', 'describe-tool', 'huts', 'reserve_bunks', '--omit', 'party');
    expect(omitted.err)
      .to.contain('cannot be omitted')
      .and.contain('Set a value, or let the caller or model supply it');
    const misspelt = await run('endpoint', 'describe-tool', 'huts', 'reserve_bunk', '--title', 'x');
    expect(misspelt.err).to.contain('reserve_bunks');
    expect((await run('endpoint', 'describe-tool', 'huts', 'reserve_bunks', '--set', 'hut')).code).to.equal(2);
  });

  it('makes endpoints, puts a whole server on one, and shows what an agent or client would get', async () => {
    const lift = await startTestLift();
    await house.api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
    expect((await run('endpoint', 'create', 'ropeway', '--title', 'Ropeway')).out).to.contain('/mcp/ropeway');
    expect((await run('endpoint', 'create', 'Rope Way')).code).to.equal(1);
    expect((await run('endpoint', 'add-tool', 'ropeway', '--server', 'lift')).out).to.contain('4 tools');
    expect((await run('endpoint', 'add-tool', 'ropeway', '--server', 'nowhere')).err).to.contain(
      'no tool server named',
    );
    expect(
      (await run('endpoint', 'add-tool', 'ropeway', 'loads', '--server', 'lift', '--server-tool', 'list_load')).err,
    ).to.match(/has no tool "list_load"[\s\S]*list_loads/);
    const { out } = await run('endpoint', 'show', 'ropeway');
    expect(out).to.contain('schedule_load').and.contain('tokens');
    const review = await run('endpoint', 'review', 'ropeway', '--json');
    const { suggestions } = JSON.parse(review.out) as { suggestions: { id: string }[] };
    expect(suggestions.map(({ id }) => id)).to.include('description_short/cancel_load');
    const named = await run('endpoint', 'review', 'ropeway', '--apply', 'description_short/cancel_load');
    expect(named.out).to.contain('1 applied');
    const sent = JSON.parse((await run('endpoint', 'review', 'ropeway', '--sent')).out) as Record<string, string>[];
    expect(sent.find(({ name }) => name === 'cancel_load')!.description).to.contain('Takes load. Changes data');
    await lift.close();
  });

  it('says which endpoint, session or key is not there', async () => {
    expect((await run('endpoint', 'show', 'hut')).err).to.contain('huts');
    expect((await run('endpoint', 'sessions', 'huts', '--end', 'nothing')).err).to.contain('no open session');
    expect((await run('key', 'rotate', 'nothing')).err).to.contain('key list');
    expect((await run('key', 'rotate', 'nothing', '--overlap', 'soon')).code).to.equal(1);
    const none = await run('endpoint', 'usage', 'huts', '--days', '1');
    expect(none.out).to.contain('No calls');
  });
});
