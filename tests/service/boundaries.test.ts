import { Presence, ReachPolicy } from '@pindro/service/parts';
import { expect } from 'chai';
import { callTool, connect, furnish, type Workspace, workspace } from '../support/workspace.js';

const HOUR = 3_600_000;

describe('access at its boundary', () => {
  let house: Workspace;
  let passed = 0;
  before(async () => {
    const begun = Date.now();
    const time = { wall: () => begun + passed, monotonic: () => passed };
    house = await workspace({ time });
    furnish(house.service);
  });
  after(() => house.close());

  it('a key that expires ends on the connection that it opened', async () => {
    const { key } = await house.api.issueKey({ body: { name: 'short', expires: '1h', endpoints: ['huts'] } });
    const client = await connect(house.service, key);
    const book = () => callTool(client, 'reserve_bunks', { hut: 'larch', night: '2027-02-14', party: 1 });
    expect((await book()).isError).to.not.equal(true);
    passed += HOUR - 1000;
    expect((await book()).isError).to.not.equal(true);
    passed += 1000;
    const refused = await book().then(
      () => 'accepted',
      (error: Error) => error.message,
    );
    expect(refused).to.contain('expired on');
    await client.close().catch(() => {});
  });

  it('cloud metadata addresses are never reached, even where private networks may be and the address is named', () => {
    const addresses = ['169.254.169.254', '100.100.100.200', '168.63.129.16', '192.0.0.192', '[fd00:ec2::254]'];
    const allowed = ['0.0.0.0/0', '::/0', '100.100.100.200', '168.63.129.16'];
    for (const policy of [
      new ReachPolicy({ allowed: [], privateToo: true, own: () => [] }),
      new ReachPolicy({ allowed, privateToo: false, own: () => [] }),
    ]) {
      for (const address of addresses)
        expect(() => policy.permit(new URL(`http://${address}/latest/`)), address)
          .to.throw()
          .with.property('code', 'address_forbidden');
      expect(() => policy.permit(new URL('http://100.100.100.201/'))).to.not.throw();
    }
  });
});

describe('who has a draft open', () => {
  it('is forgotten twelve seconds after the last word of a page', () => {
    let now = 0;
    const presence = new Presence(() => now);
    presence.here('greet', 'page-1', 'ines');
    now = 12_000;
    expect(presence.here('greet', 'page-2', 'tobias')).to.deep.equal(['ines']);
    now = 12_001;
    expect(presence.here('greet', 'page-3', 'marit')).to.deep.equal(['tobias']);
  });
});
