import type { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { LoggingMessageNotificationSchema } from '@modelcontextprotocol/sdk/types.js';
import { expect } from 'chai';
import { type SlowServer, startSlowServer } from '../support/slow-server.js';
import { connect, furnish, type Workspace, workspace } from '../support/workspace.js';

interface Progress {
  progress: number;
  total?: number;
  message?: string;
}

describe('the progress of an attached server’s tool', function () {
  this.timeout(30_000);
  let house: Workspace;
  let slow: SlowServer;
  let client: Client;
  before(async () => {
    [house, slow] = await Promise.all([workspace(), startSlowServer()]);
    const { ines } = furnish(house.service);
    await house.api.attachServer({ body: { name: 'slow', url: slow.url } });
    house.service.flows.drafts.save(`format: pindro/flow@1
name: twice
input: { type: object }
steps:
  first: { kind: tool, with: { server: slow, tool: climb, arguments: { stages: 3, pause: 30 } } }
  second: { kind: tool, after: [first], with: { server: slow, tool: climb, arguments: { stages: 2, pause: 30 } } }
result: "\${ steps.second.text }"
`);
    house.service.flows.revisions.publish('twice');
    house.service.endpoints.expose('huts', 'climb_twice', { flow: 'twice' });
    await house.api.addTools({ name: 'huts', body: { servers: { slow: {} } } });
    client = await connect(house.service, ines);
  });
  after(async () => {
    await client.close();
    await Promise.all([house.close(), slow.close()]);
  });
  const call = async (name: string, args: Record<string, unknown> = {}) => {
    const told: Progress[] = [];
    const result = (await client.callTool({ name, arguments: args }, undefined, {
      onprogress: (progress) => void told.push(progress),
    })) as { content: { text: string }[] };
    return { told, text: result.content[0]!.text };
  };
  const grows = (told: Progress[]) =>
    told.every(({ progress }, index) => index === 0 || progress > told[index - 1]!.progress);

  it('reaches a client of an endpoint, in the words of the server', async () => {
    const { told, text } = await call('climb', { stages: 4, pause: 40 });
    expect(text).to.contain('climbed 4 stages');
    expect(told.map(({ message }) => message)).to.include.members(['Stage 1 of the trail', 'Stage 3 of the trail']);
    expect(grows(told), JSON.stringify(told)).to.equal(true);
    expect(told[0]).to.deep.include({ progress: 0.25, total: 1 });
    expect(told.at(-1)).to.include({ progress: 1 });
  });

  it('counts as part of its step in a flow of several', async () => {
    const { told } = await call('climb_twice');
    expect(grows(told), JSON.stringify(told)).to.equal(true);
    expect(told.every(({ total }) => total === 2)).to.equal(true);
    const second = told.filter(({ progress }) => progress > 1 && progress < 2);
    expect(second.map(({ message }) => message)).to.include('Stage 1 of the trail');
  });

  it('without a total comes ever nearer to the end of its step', async () => {
    const { told } = await call('climb', { stages: 5, pause: 30, counted: false });
    expect(grows(told), JSON.stringify(told)).to.equal(true);
    expect(told.length).to.be.above(3);
    expect(told[0]!.message).to.equal('climb: 1');
  });

  it('and what it says reach the client that listens, at its level, as long as it is certain whose call is meant', async () => {
    const heard: string[] = [];
    client.setNotificationHandler(LoggingMessageNotificationSchema, ({ params }) => {
      if (String(params.data).includes('trail: ')) heard.push(`${params.level} ${params.logger} ${params.data}`);
    });
    await client.setLoggingLevel('warning');
    await call('climb', { stages: 3, pause: 20 });
    expect(heard).to.deep.equal(['warning climb climb: trail: stage 2 of 3']);
    // Two at once on one connection: nobody is told what may have been said to another.
    await Promise.all([call('climb', { stages: 4, pause: 40 }), call('climb', { stages: 4, pause: 40 })]);
    expect(heard).to.have.lengthOf(1);
    await client.setLoggingLevel('emergency');
  });

  it('is nothing that anybody is sent who did not ask', async () => {
    const result = await client.callTool({ name: 'climb', arguments: { stages: 2, pause: 10 } });
    expect(JSON.stringify(result)).to.contain('climbed 2 stages');
  });
});
