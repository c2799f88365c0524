import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Finding } from '@pindro/core';
import type { Lift } from '@pindro/standins';
import { expect } from 'chai';
import { greetFlow } from '../support/desk.js';
import { pindro } from '../support/process.js';
import { furnish, LIFT_KEY, startTestLift, type Workspace, workspace } from '../support/workspace.js';

const callLift = (server: string) => `format: pindro/flow@1
name: load-by-${server}
steps:
  lift: { kind: tool, with: { server: ${server}, tool: schedule_load, arguments: { hut: larch, day: "2027-02-13", weight_kg: 40, goods: gas } } }
result: "\${ steps.lift.data }"
`;

describe('a fix that a finding proposes', function () {
  this.timeout(60_000);
  let house: Workspace;
  let lift: Lift;
  let env: NodeJS.ProcessEnv;
  before(async () => {
    [house, lift] = await Promise.all([workspace(), startTestLift()]);
    furnish(house.service);
    env = { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey };
  });
  after(async () => {
    await house.close();
    await lift.close();
  });

  /** Attaches the lift with a credential in the header Authorization, and runs a flow that calls it. */
  const refusedWith = async (name: string, secret: string) => {
    await house.api.addCredential({ body: { name, kind: 'header', header: 'Authorization', secret } });
    const server = { name, url: lift.url, credential: name, rules: {}, skipTest: true };
    await house.service.servers.attach(server);
    house.service.flows.drafts.save(callLift(name));
    const { run } = await house.api.runFlow({ name: `load-by-${name}`, body: { input: {}, stage: 'draft' } });
    const { findings } = await house.api.getRun({ id: run });
    return { run, finding: findings[0] as Finding };
  };
  const secretOf = (name: string) => house.service.credentials.value(name, { inside: 'inspect' });
  const stateOf = async ({ fingerprint }: Finding) => (await house.api.getProblem({ id: fingerprint })).state;

  it('removes a repeated Bearer once, and asks the server whether that helps', async () => {
    const { run, finding } = await refusedWith('twice', `Authorization: Bearer Bearer ${LIFT_KEY}`);
    expect(finding.cure).to.include({ do: 'clean', credential: 'twice' });
    const fixed = await pindro(['run', 'fix', run, '--retry'], { env });
    expect(fixed.code, fixed.err).to.equal(0);
    expect(fixed.out).to.contain('tool server "twice" accepts it').and.to.contain('done');
    expect(secretOf('twice')).to.equal(`Bearer ${LIFT_KEY}`);
    expect(await stateOf(finding)).to.equal('resolved');
  });

  it('restores the credential where the server refuses it again', async () => {
    const secret = '"Bearer not-the-lift-key"';
    const { run, finding } = await refusedWith('stale', secret);
    const fixed = await pindro(['run', 'fix', run], { env });
    expect(fixed.code).to.equal(1);
    expect(fixed.out).to.contain('Nothing was changed, because the fix did not help').and.not.contain('not-the-lift');
    expect(secretOf('stale')).to.equal(secret);
    expect(await stateOf(finding)).to.equal('open');
  });

  it('is not proposed where the request carried the key as the server wants it', async () => {
    const { finding } = await refusedWith('former', 'Bearer a-key-of-last-year');
    expect(finding).to.include({ code: 'not_authorised', cure: null });
  });

  it('is not applied to a credential that has changed since', async () => {
    const { run } = await refusedWith('bare', `"Bearer ${LIFT_KEY}"`);
    await house.api.updateCredential({ name: 'bare', body: { kind: 'bearer', secret: LIFT_KEY } });
    const stale = await house.api.fixRun({ id: run, body: {} }).catch((error: Error) => error);
    expect(String(stale)).to.contain('credential "bare" has changed since the run failed');
    expect(secretOf('bare')).to.equal(LIFT_KEY);
  });

  it('takes the scheme along when it sends a credential in another form', () => {
    const { credentials } = house.service;
    credentials.add({
      name: 'moved',
      kind: 'header',
      header: 'Authorization',
      account: '',
      secret: 'Bearer a-key-to-move',
    });
    credentials.reform('moved', { kind: 'header', header: 'X-Lift-Key' });
    expect(credentials.reveal('moved', { inside: 'inspect' }).headers).to.deep.equal({ 'x-lift-key': 'a-key-to-move' });
    credentials.reform('moved', { kind: 'bearer', header: null });
    expect(credentials.reveal('moved', { inside: 'inspect' }).headers).to.deep.equal({
      authorization: 'Bearer a-key-to-move',
    });
    expect(credentials.masker.text('it is a-key-to-move')).to.not.contain('a-key-to-move');
  });

  it('is refused at the door where a header repeats its scheme', async () => {
    const body = { name: 'door', kind: 'header' as const, header: 'Authorization', secret: 'Bearer bearer a-long-key' };
    const refused = await house.api.addCredential({ body }).catch((error: Error) => error);
    expect(String(refused)).to.contain('repeats the scheme "Bearer"').and.not.contain('a-long-key');
  });

  it('that changed only the draft says so, keeps the problem open, and is published and retried', async () => {
    house.service.flows.drafts.save(greetFlow('nmae'));
    house.service.flows.revisions.publish('greet');
    const input = { who: { name: 'Tobias' } };
    const { run } = await house.api.runFlow({ name: 'greet', body: { input, stage: 'live' } });
    const [finding] = (await house.api.getRun({ id: run })).findings as [Finding];
    const fixed = await pindro(['run', 'fix', run], { env });
    expect(fixed.out).to.contain('Only the draft of greet has changed. Callers use revision 1 until you publish.');
    expect(fixed.out).to.contain(`pindro run fix ${run} --publish --retry`);
    expect(await stateOf(finding)).to.equal('open');

    const published = await pindro(['run', 'fix', run, '--publish', '--retry', '--json'], { env });
    expect(published.code, published.err).to.equal(0);
    const { draft, retried } = JSON.parse(published.out);
    expect([draft, retried.state, retried.result]).to.deep.equal([null, 'done', 'Welcome, Tobias!']);
    expect(house.service.flows.drafts.get('greet').live).to.equal(2);
    expect(await stateOf(finding)).to.equal('resolved');
  });

  it('is restored where it helps one server and breaks another that shares the credential', async () => {
    const { credentials } = house.service;
    const { run } = await refusedWith('shared', `"Bearer ${LIFT_KEY}"`);
    // The other one takes the key as it is.
    const other = createServer((request, response) => {
      const fine = request.headers.authorization === `"Bearer ${LIFT_KEY}"`;
      response.writeHead(fine ? 307 : 401, fine ? { location: lift.url } : { 'www-authenticate': 'Bearer' }).end();
    });
    await new Promise<void>((resolve) => other.listen(0, '127.0.0.1', resolve));
    const url = `http://127.0.0.1:${(other.address() as AddressInfo).port}/mcp`;
    credentials.allow('shared', url);
    await house.service.servers.attach({ name: 'other', url, credential: 'shared', rules: {}, skipTest: true });
    const answer = await house.api.fixRun({ id: run, body: {} });
    expect(answer).to.include({ made: false });
    expect(secretOf('shared')).to.equal(`"Bearer ${LIFT_KEY}"`);
    await new Promise((resolve) => other.close(resolve));
  });

  it('does not publish what breaks those who use the flow', async () => {
    house.service.flows.drafts.save(greetFlow('nmae').replace('name: greet', 'name: relied'));
    house.service.flows.revisions.publish('relied');
    house.service.endpoints.save(
      'format: pindro/endpoint@1\nname: reliant\ntools: { greet: { flow: relied, arguments: { who: { set: { name: Ines } } } } }\n',
    );
    const { run } = await house.api.runFlow({
      name: 'relied',
      body: { input: { who: { name: 'Ines' } }, stage: 'live' },
    });
    const needs = greetFlow('nmae')
      .replace('name: greet', 'name: relied')
      .replace('input: { type: object,', 'input: { type: object, required: [where],');
    house.service.flows.drafts.save(
      needs.replace('who: { type: object }', 'where: { type: string }, who: { type: object }'),
    );
    const before = house.service.flows.drafts.get('relied').live;
    const refused = await house.api.fixRun({ id: run, body: { publish: true } }).catch((error: Error) => error);
    expect(String(refused)).to.contain('Publishing "relied" would break');
    expect(house.service.flows.drafts.get('relied').live).to.equal(before);
  });
});
