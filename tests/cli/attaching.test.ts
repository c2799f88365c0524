import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { type Lift, PROGRAMS } from '@pindro/standins';
import { expect } from 'chai';
import { type Gate, startGate } from '../support/gate.js';
import { pindro, type Running, startReady } from '../support/process.js';
import { discard, LIFT_KEY, startTestLift, temporary } from '../support/workspace.js';

describe('attaching tool servers at the command line', function () {
  this.timeout(120_000);
  const data = temporary();
  const folder = join(data, 'desk');
  let service: Running<{ url: string; apiKey: string }>;
  let lift: Lift;
  let gate: Gate;
  const run = async (args: string[], input?: string) => {
    const env = { PINDRO_URL: service.contract.url, PINDRO_KEY: service.contract.apiKey };
    const { out, err, code } = await pindro(['server', ...args], { env, ...(input !== undefined && { input }) });
    return { code, out, err };
  };
  before(async () => {
    mkdirSync(folder, { recursive: true });
    [service, lift] = await Promise.all([
      startReady(['serve', '--json', '--port', '0', '--data', data]) as Promise<typeof service>,
      startTestLift(),
    ]);
    gate = await startGate(lift.url, LIFT_KEY, ({ headers }) => headers['x-api-key'] === 'the-key-of-the-gate');
  });
  after(async () => {
    await service.stop();
    await Promise.all([lift.close(), gate.close()]);
    discard(data);
  });

  it('shows what it understood and mended of broken settings, and attaches what it can', async () => {
    const file = join(folder, 'settings.json');
    writeFileSync(
      file,
      `{ // ours
        "mcpServers": {
          "Cable": { "url": "${lift.older}", "headers": { "authorization": "${LIFT_KEY}" }, },
          "gate": { "url": "${gate.url}/mcp", "headers": { "x_api_key": "the-key-of-the-gate" } },
          "trails": { "command": "${process.execPath}", "args": ["${PROGRAMS.trails}", "--token", "s3cret-of-the-trail"] },
          "lost": { "command": "no-such-program", "args": [] },
        }
      }`,
    );
    const looked = await run(['attach', '--from', file, '--preview']);
    expect(looked.code).to.equal(0);
    expect(looked.out)
      .to.contain('Bearer was missing in front of the key')
      .and.contain('The header "x_api_key" was corrected to X-Api-Key')
      .and.contain('Comments were removed')
      .and.contain(`${PROGRAMS.trails} --token <token>`)
      .and.contain('value of --token is stored encrypted')
      .and.not.match(new RegExp(`${LIFT_KEY}|s3cret`));
    expect((await run(['list'])).out).to.contain('No tool servers yet');
    const { code, out, err } = await run(['attach', '--from', file]);
    expect(code, 'one could not be attached').to.equal(1);
    expect(out)
      .to.match(/cable attached: Valley Lift \S+ over HTTP\+SSE/)
      .and.match(/gate attached: Valley Lift \S+ over Streamable HTTP/)
      .and.match(/trails attached: Trail Report \S+ over stdio/);
    expect(err).to.contain('no program no-such-program').and.contain('use its full path');
    expect((await run(['call', 'cable', 'lift_status'])).out).to.contain('"running": true');
    expect((await run(['show', 'cable'])).out).to.contain('HTTP+SSE');
  });

  it('takes one of several, under another name, as JSON too', async () => {
    const text = `{ "a": { "url": "${lift.url}", "headers": { "Authorization": "${LIFT_KEY}" } }, "b": { "url": "${lift.url}" } }`;
    expect((await run(['attach', 'twice', '--from', '-'], text)).err).to.contain('one name cannot apply to 2');
    expect((await run(['attach', '--from', '-', '--only', 'c'], text)).err).to.contain('Available: a, b');
    const { out } = await run(['attach', 'other', '--from', '-', '--only', 'a', '--json'], text);
    expect(JSON.parse(out).items[0]).to.include({ name: 'other', speaks: 'http', tools: 4 });
  });

  it('mends an address that was copied with what stood around it, and says what is wrong otherwise', async () => {
    const pasted = await run(['attach', 'quoted', `"${lift.url}",`, '--secret'], LIFT_KEY);
    expect(pasted.out).to.contain('quoted attached');
    expect((await run(['attach', 'lift'])).err).to.contain('attach needs a name and an address');
    expect((await run(['attach', 'prose', 'please attach it'])).err).to.contain('neither an address');
    expect((await run(['attach', '--from', join(folder, 'nothing.json')])).err).to.contain('does not exist');
    expect((await run(['attach', 'locked', `${gate.url}/mcp`])).err)
      .to.contain('refused')
      .and.contain('credential');
    expect((await run(['list'])).out).not.to.contain('locked');
  });
});
