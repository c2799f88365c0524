import type { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { createClient } from '@pindro/contract';
import { expect } from 'chai';
import { pindro, type Running, startReady } from '../support/process.js';
import { callTool, connect, discard, temporary } from '../support/workspace.js';

const GREET = `format: pindro/flow@1
name: greet
title: Greet
description: Greets somebody by name, for the sign beside the door of the hut.
input: { type: object, required: [name], properties: { name: { type: string, description: Whom to greet } } }
steps: { say: { kind: text, with: { text: "Welcome, \${ input.name }" } } }
result: { said: "\${ steps.say.text }" }
`;

describe('the workshop at the command line', function () {
  this.timeout(120_000);
  const data = temporary();
  let service: Running<{ url: string; apiKey: string }>;
  let assistant: Client;
  const run = async (...args: string[]) => {
    const { out, err, code } = await pindro(args, {
      env: { PINDRO_URL: service.contract.url, PINDRO_KEY: service.contract.apiKey },
    });
    return { code, text: out + err };
  };
  before(async () => {
    service = await startReady(['serve', '--json', '--port', '0', '--data', data]);
    const api = createClient({ url: service.contract.url, key: service.contract.apiKey });
    await api.importFlow({ body: { document: GREET } });
    await api.publishFlow({ name: 'greet', body: {} });
  });
  after(async () => {
    await assistant?.close();
    await service.stop();
    discard(data);
  });

  it('is switched on, opened and briefed, and an assistant comes in with a key', async () => {
    expect((await run('workshop', 'show')).text)
      .to.contain('disabled; enable it')
      .and.match(/greet +no +yes/);
    expect((await run('workshop', 'allow', 'greet')).text).to.contain('Enable it with "pindro workshop enable"');
    expect((await run('workshop', 'enable')).text)
      .to.contain('Open to assistants: greet')
      .and.contain('workshop instructions');
    expect((await run('workshop', 'allow', 'gret')).text).to.contain('Did you mean "greet"?');
    expect((await run('workshop', 'instructions')).text)
      .to.contain('/mcp/workshop')
      .and.contain('greet');
    expect((await run('endpoint', 'connect', 'workshop')).text).to.contain('"url"');
    expect((await run('endpoint', 'test', 'workshop')).code).to.equal(0);
    const key = await run('key', 'issue', 'coder', '--endpoint', 'workshop', '--propose', '--json');
    assistant = await connect({ url: service.contract.url }, JSON.parse(key.text).key, 'workshop');
    expect((await run('key', 'list')).text).to.contain('may propose');
    const { structuredContent } = await callTool(assistant, 'perform_flow', { flow: 'greet', input: { name: 'Ines' } });
    expect(structuredContent).to.deep.equal({ said: 'Welcome, Ines' });
  });

  it('shows proposals, takes one and declines another', async () => {
    const propose = async (document: string) => {
      const { structuredContent } = await callTool(assistant, 'propose_flow', { document, why: 'It sounds kinder so' });
      return String((structuredContent as { proposal: string }).proposal);
    };
    const kinder = await propose(GREET.replace('Welcome,', 'Come in,'));
    expect((await run('workshop', 'proposals')).text).to.match(/greet +coder .* open +It sounds kinder so/);
    const looked = (await run('workshop', 'review', kinder)).text;
    expect(looked)
      .to.contain('Step say: text changed')
      .and.match(/\+ .*Come in/);
    const taken = await run('workshop', 'accept', kinder, '--note', 'Yes');
    expect(taken.text).to.contain('pindro flow publish greet');
    expect((await run('flow', 'show', 'greet')).text).to.contain('Come in');
    const fresh = await propose(GREET.replace('name: greet', 'name: greet-all'));
    expect((await run('workshop', 'review', fresh)).text).to.contain('a new flow');
    expect((await run('workshop', 'reject', fresh, '--note', 'One is enough')).text).to.contain('can read the note');
    const again = await run('workshop', 'accept', fresh);
    expect(again.code).to.equal(1);
    expect(again.text).to.contain('was already declined');
    expect((await run('flow', 'list')).text).to.not.contain('greet-all');
  });

  it('is switched off again, and says so to whoever comes', async () => {
    expect((await run('workshop', 'disable')).text).to.contain('The workshop is disabled');
    const lost = await assistant.listTools().catch((error: Error) => error.message);
    expect(lost).to.contain('disabled').and.contain('pindro workshop enable');
    const test = await run('endpoint', 'test', 'workshop');
    expect(test.code).to.equal(1);
    expect(test.text).to.contain('Enable');
  });
});
