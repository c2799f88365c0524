import { ProblemError } from '@pindro/contract';
import { diagnose } from '@pindro/core';
import { expect } from 'chai';
import { callTool, connect, furnish, type Workspace, workspace } from '../support/workspace.js';

const SECOND = `format: pindro/flow@1
name: second
description: Says how it stands.
input: { type: object, properties: { hut: { type: string } } }
steps: { a: { kind: text, with: { text: fine } } }
result: "\${ steps.a.text }"
`;
const FIRST = `format: pindro/flow@1
name: first
description: Asks the second.
steps: { a: { kind: flow, with: { flow: second, input: { hut: larch } } } }
result: "\${ steps.a.result }"
`;

describe('words that are true', () => {
  let house: Workspace;
  let keys: { ines: string };
  before(async () => {
    house = await workspace();
    keys = furnish(house.service);
    for (const document of [SECOND, FIRST]) house.service.flows.drafts.save(document);
  });
  after(() => house.close());

  it('publishing says what still hinders a caller, and asks first where it breaks somebody', async () => {
    const { api } = house;
    const { blockers } = await api.publishFlow({ name: 'first', body: {} });
    expect(blockers).to.have.length(1);
    expect(blockers[0]).to.contain('"second"').and.contain('pindro flow publish second');
    expect((await api.publishFlow({ name: 'second', body: {} })).blockers).to.deep.equal([]);
    house.service.flows.drafts.save(
      SECOND.replace('properties: { hut: { type: string } }', 'required: [day], properties: { day: { type: string } }'),
    );
    const error = (await api.publishFlow({ name: 'second', body: {} }).catch((thrown) => thrown)) as ProblemError;
    expect(error).to.be.instanceOf(ProblemError);
    expect(error.problem.code).to.equal('publish_breaks');
    expect(JSON.stringify(error.problem.mistakes)).to.contain('first').and.contain('day');
    expect((await api.getFlow({ name: 'second' })).revision).to.equal(1);
    expect((await api.publishFlow({ name: 'second', body: { force: true } })).revision).to.equal(2);
  });

  it('a call that was let in and is refused before it begins is a run, and is counted', async () => {
    const { api } = house;
    await api.addTools({ name: 'huts', body: { tools: { gone: { flow: 'first' } } } });
    await api.removeFlow({ name: 'first', query: { force: 'true' } });
    const client = await connect(house.service, keys.ines);
    expect((await callTool(client, 'gone', {})).isError).to.equal(true);
    await client.callTool({ name: 'reserve_bunk', arguments: {} }).catch(() => {});
    await client.close();
    const { items } = await api.listRuns({ query: { state: 'failed' } });
    expect(items.map(({ flow }) => flow)).to.have.members(['huts.gone', 'huts.reserve_bunk']);
    const usage = await api.endpointUsage({ name: 'huts', query: {} });
    expect(JSON.stringify(usage)).to.contain('"gone"');
    const test = await api.testEndpoint({ name: 'huts', body: {} });
    expect(test.ok).to.equal(false);
    expect(test.steps.at(-1)!.found).to.contain('gone: ');
    // The test called nothing.
    expect((await api.listRuns({ query: {} })).items).to.have.length(items.length);
  });

  it('what was cancelled beside a failure is no cause, and a step that was tried again is told as that', async () => {
    house.service.flows.drafts.save(`format: pindro/flow@1
name: beside
steps:
  slow: { kind: wait, with: { for: 10s } }
  bad: { kind: stop, with: { as: failed, message: The slope is closed } }
`);
    const { run } = await house.api.runFlow({ name: 'beside', body: {} });
    const detail = await house.api.getRun({ id: run });
    for (const finding of detail.findings) expect(finding.code).not.to.equal('cancelled');
    expect(JSON.stringify(detail.findings)).not.to.contain('"slow"');
    const span = (id: string, more: object) =>
      ({
        ...{ traceId: 't', spanId: id, parentId: 'root', run: 'r', work: 'step', name: 'ask', start: 1, end: 2 },
        ...{ attributes: { 'pindro.path': 'ask' }, status: 'ok' },
        ...more,
      }) as never;
    const error = { code: 'address_unreachable', message: 'nobody answers', hint: '' };
    const known = detail.spans.find(({ name }) => name === 'bad')!.attributes;
    const path = Object.keys(known).find((key) => known[key] === 'bad')!;
    const findings = diagnose({
      runs: [{ id: 'r', flow: 'f', state: 'done' }],
      spans: [
        span('root', { parentId: null, work: 'run', name: 'f' }),
        span('one', { status: 'error', error, attributes: { [path]: 'ask' } }),
        span('two', { start: 3, attributes: { [path]: 'ask' } }),
      ],
    } as never);
    expect(findings).to.have.length(1);
    expect(findings[0]).to.include({ severity: 'warning' });
    expect(findings[0]!.title).to.contain('succeeded at attempt 2');
  });

  it('a batch is answered where the version has batches', async () => {
    const post = (body: unknown, headers: object = {}) =>
      fetch(`${house.service.url}/mcp/huts`, {
        method: 'POST',
        headers: {
          'content-type': 'application/json',
          accept: 'application/json, text/event-stream',
          authorization: `Bearer ${keys.ines}`,
          ...headers,
        },
        body: JSON.stringify(body),
      });
    const begin = async (protocolVersion: string) => {
      const params = { protocolVersion, capabilities: {}, clientInfo: { name: 'old', version: '1' } };
      const answer = await post({ jsonrpc: '2.0', id: 1, method: 'initialize', params });
      return { 'mcp-session-id': answer.headers.get('mcp-session-id')! };
    };
    const messages = [
      { jsonrpc: '2.0', id: 'a', method: 'ping' },
      { jsonrpc: '2.0', method: 'notifications/initialized' },
      { jsonrpc: '2.0', id: 'b', method: 'tools/list' },
      { jsonrpc: '2.0', id: 'c', method: 'nothing' },
    ];
    const old = await post(messages, await begin('2025-03-26'));
    const answers = (await old.json()) as { id: string; error?: object }[];
    expect(answers.map(({ id }) => id).sort()).to.deep.equal(['a', 'b', 'c']);
    expect(answers.find(({ id }) => id === 'c')!.error).to.include({ code: -32601 });
    expect((await post([messages[1]], await begin('2025-03-26'))).status).to.equal(202);
    const twice = [messages[0], messages[0]];
    expect((await post(twice, await begin('2025-03-26'))).status).to.equal(400);
    const now = await post(messages, await begin('2025-11-25'));
    expect([now.status, await now.text()]).to.satisfy(
      ([status, text]: [number, string]) => status === 400 && text.includes('Batches are not supported'),
    );
  });
});
