import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { StdioClientTransport } from '@modelcontextprotocol/sdk/client/stdio.js';
import {
  LoggingMessageNotificationSchema,
  ToolListChangedNotificationSchema,
} from '@modelcontextprotocol/sdk/types.js';
import { expect } from 'chai';
import { PINDRO, pindro, type Running, startReady } from '../support/process.js';
import { callTool, discard, temporary, until } from '../support/workspace.js';

const FLOW = `format: pindro/flow@1
name: larch-report
title: Report of the larch hut
description: Tells how the larch hut stands this morning. It takes a moment, since it looks twice.
steps:
  look: { kind: text, with: { text: "The larch hut is open" } }
  rest: { kind: wait, after: [look], with: { for: 400ms } }
result: { said: "\${ steps.look.text }" }
`;

describe('serving tools by commands alone', () => {
  const data = temporary();
  const port = 21_000 + Math.floor(Math.random() * 20_000);
  let service: Running<{ url: string; apiKey: string }>;
  let env: Record<string, string>;
  const run = (args: string[]) => pindro(args, { env });
  const importFlow = (text: string) => {
    const file = join(data, 'flow.yaml');
    writeFileSync(file, text);
    return run(['flow', 'import', file]);
  };
  const json = async <T>(...args: string[]): Promise<T> => {
    const { code, out, err } = await run([...args, '--json']);
    expect(code, err + out).to.equal(0);
    return JSON.parse(out) as T;
  };
  const begin = async () => {
    service = await startReady(['serve', '--json', '--port', String(port), '--data', data]);
    env = { PINDRO_URL: service.contract.url, PINDRO_KEY: service.contract.apiKey };
  };
  before(begin);
  after(async () => {
    await service.stop();
    discard(data);
  });

  it('goes from an empty directory to a tool that an MCP client calls', async () => {
    expect((await importFlow(FLOW)).code).to.equal(0);
    const exposed = await json<{ key: string; settings: { shape: string; language: string; text: string }[] }>(
      'flow',
      'expose',
      'larch-report',
      '--endpoint',
      'huts',
    );
    for (const one of exposed.settings.filter(({ language }) => language === 'json')) {
      const [server] = Object.values(JSON.parse(one.text).mcpServers);
      expect(JSON.stringify(server)).to.contain(exposed.key);
    }
    const { out, code } = await run(['endpoint', 'test', 'huts', '--with-key', exposed.key]);
    expect(code).to.equal(0);
    expect(out).to.contain('1 tool: larch_report').and.contain('A client can connect.');
    const wrong = await run(['endpoint', 'test', 'huts', '--with-key', 'pindro_mistyped']);
    expect(wrong.code).to.equal(1);
    expect(wrong.out).to.contain('The key is accepted').and.contain('Issue a new one');
  });

  it('bridges to clients that only speak stdio: progress, cancelling, changes, and a restart in between', async function () {
    this.timeout(120_000);
    const { key } = await json<{ key: string }>('key', 'issue', 'desk', '--endpoint', 'huts', '--expires', '1h');
    const { settings } = await json<{ settings: { shape: string; text: string }[] }>('endpoint', 'connect', 'huts');
    const given = JSON.parse(settings.find(({ shape }) => shape === 'command-json')!.text).mcpServers.huts as {
      command: string;
      args: string[];
      env: { PINDRO_KEY: string };
    };
    expect(given.args).to.include(PINDRO);
    const client = new Client({ name: 'stdio-desk', version: '2' });
    const transport = new StdioClientTransport({ ...given, env: { PINDRO_KEY: key }, stderr: 'pipe' });
    let said = '';
    transport.stderr!.on('data', (piece) => {
      said += piece;
    });
    await client.connect(transport);
    expect((await client.listTools()).tools.map(({ name }) => name)).to.deep.equal(['larch_report']);
    const logs: string[] = [];
    client.setNotificationHandler(
      LoggingMessageNotificationSchema,
      ({ params }) => void logs.push(String(params.data)),
    );
    await client.setLoggingLevel('info');
    const progress: (number | undefined)[][] = [];
    await client.callTool({ name: 'larch_report', arguments: {} }, undefined, {
      onprogress: (step) => progress.push([step.progress, step.total]),
    });
    // A client of the SDK forgets what it was told of a call in the moment its answer is read with it.
    expect(progress[0]).to.deep.equal([1, 2]);
    expect(logs[0]).to.contain('Step look is done');

    const stop = new AbortController();
    const call = client
      .callTool({ name: 'larch_report', arguments: {} }, undefined, { signal: stop.signal })
      .catch(() => 'cancelled');
    setTimeout(() => stop.abort(), 150);
    expect(await call).to.equal('cancelled');
    await until(
      async () => (await json<{ items: object[] }>('run', 'list', '--state', 'cancelled')).items[0],
      'the run to be cancelled',
    );

    let heard = 0;
    client.setNotificationHandler(ToolListChangedNotificationSchema, () => void heard++);
    const { code, err } = await run(['endpoint', 'describe-tool', 'huts', 'larch_report', '--name', 'report_of_larch']);
    expect(code, err).to.equal(0);
    await until(() => heard > 0, 'the change to arrive');

    await service.stop();
    await until(() => said.includes('cannot be reached'), 'the bridge to notice', 20_000);
    // It has to find nobody there a few times.
    await new Promise((resolve) => setTimeout(resolve, 1500));
    await begin();
    const answer = await until(
      () => callTool(client, 'report_of_larch', {}).catch(() => null),
      'the bridge to reach the service again',
    );
    expect(answer.structuredContent).to.deep.equal({ said: 'The larch hut is open' });
    // Once that it is gone, once that it is back.
    expect(said.match(/cannot be reached/g), said).to.have.length(1);
    expect(said.match(/Pindro is available again/g), said).to.have.length(1);
    const { items } = await json<{ items: { client: string; calls: number }[] }>('endpoint', 'sessions', 'huts');
    expect(items.map((one) => one.client)).to.include('stdio-desk');
    await client.close();
  });

  it('tells a client through the bridge what is wrong with its key', async () => {
    const client = new Client({ name: 'stdio-desk', version: '2' });
    const transport = new StdioClientTransport({
      command: process.execPath,
      args: [PINDRO, 'bridge', 'huts', '--url', service.contract.url],
      env: { PINDRO_KEY: 'pindro_mistyped' },
      stderr: 'ignore',
    });
    const why = await client.connect(transport).catch((error: Error) => error.message);
    expect(why).to.contain('access key is unknown');
    await client.close();
  });

  it('answers through the bridge what cannot be read, so that its client does not wait for ever', async () => {
    const { key } = await json<{ key: string }>('key', 'issue', 'reader', '--endpoint', 'huts');
    const { out, err } = await pindro(['bridge', 'huts'], {
      env: { ...env, PINDRO_KEY: key },
      input: 'this is no message\n{"a":1}\n',
    });
    const answers = out
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line));
    expect(answers.map(({ id, error }) => [id, error.code])).to.deep.equal([
      [null, -32700],
      [null, -32700],
    ]);
    expect(err).to.contain('it is not a JSON-RPC message');
  });

  it('reviews, words, scopes, renames and counts', async function () {
    this.timeout(120_000);
    const review = await run(['endpoint', 'review', 'huts']);
    expect(review.out).to.contain('No findings');
    await importFlow(FLOW.replace('larch-report', 'run-it').replace(/description: .*\n/, ''));
    await run(['flow', 'publish', 'run-it']);
    expect((await run(['endpoint', 'add-tool', 'huts', 'run_it', '--flow', 'run-it'])).out).to.contain('2 tools');
    const bad = await run(['endpoint', 'review', 'huts']);
    expect(bad.out).to.contain('name_vague/run_it').and.contain('with --apply');
    const mended = await run(['endpoint', 'review', 'huts', '--apply']);
    expect(mended.out).to.contain('name_vague/run_it').and.contain('No findings');
    const sent = JSON.parse((await run(['endpoint', 'review', 'huts', '--sent'])).out) as { name: string }[];
    expect(sent.map(({ name }) => name)).to.deep.equal(['report_of_larch', 'report_of_the_larch_hut']);
    expect((await run(['endpoint', 'rename', 'huts', 'ridge'])).out).to.contain('/mcp/ridge');
    expect((await run(['endpoint', 'usage', 'huts'])).out).to.match(/larch_report +2 +/);
    expect((await run(['endpoint', 'remove-tool', 'ridge', 'report_of_larch'])).out).to.contain('1 tool');
    await run([
      'key',
      'issue',
      'careful',
      '--endpoint',
      'ridge',
      '--read-only',
      '--per-minute',
      '5',
      '--expires',
      '2d',
    ]);
    expect((await run(['key', 'list'])).out).to.contain('read-only; 5 a minute; until');
    const { items } = await json<{ items: { id: string; name: string }[] }>('key', 'list');
    const id = items.find(({ name }) => name === 'careful')!.id;
    expect((await run(['key', 'rotate', id, '--overlap', '1h'])).out).to.match(/^pindro_/m);
    expect((await run(['endpoint', 'remove', 'ridge', '--force'])).code).to.equal(0);
  });
});
