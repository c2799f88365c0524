import { expect } from 'chai';
import { callTool, connect, type Workspace, workspace } from '../support/workspace.js';

describe('documents that are good', () => {
  let house: Workspace;
  let key: string;
  before(async () => {
    house = await workspace();
    house.service.tables.definitions.create('stock', { item: 'text', count: 'whole' });
    await house.api.addRow({ name: 'stock', body: { row: { item: 'blanket', count: 5 } } });
    const publish = async (document: string, tool: string) => {
      const { name } = house.service.flows.drafts.save(document);
      house.service.flows.revisions.publish(name);
      return [tool, { flow: name }] as const;
    };
    const tools = Object.fromEntries([
      await publish(
        `
format: pindro/flow@1
name: take-one
description: Takes one off the stock of an item, where there is one.
input: { type: object, required: [item], properties: { item: { type: string, description: Which }, by: { type: integer, default: 1, description: How many } } }
steps:
  take:
    kind: table
    with:
      table: stock
      do: change
      where: { item: "\${ input.item }" }
      set: { count: "\${ row.count - input.by }" }
      when: "\${ row.count >= input.by }"
  none: { kind: stop, after: [take.refused], with: { as: failed, message: "No \${ input.item } is left" } }
result: { left: "\${ steps.take.rows[0].count }", half: "\${ input.by / 2 }", most: "\${ input.by > 3 ? 2.5 : input.by }" }
`,
        'take_one',
      ),
    ]);
    await house.api.createEndpoint({ body: { document: { format: 'pindro/endpoint@1', name: 'main', tools } } });
    ({ key } = await house.api.issueKey({ body: { name: 'ines', endpoints: ['main'] } }));
  });
  after(() => house.close());

  it('take one off a stock, ten at once: five are done, five refused, and none is below zero', async () => {
    const clients = await Promise.all(Array.from({ length: 10 }, () => connect(house.service, key, 'main')));
    for (const client of clients) await client.listTools();
    const answers = await Promise.all(clients.map((client) => callTool(client, 'take_one', { item: 'blanket' })));
    const done = answers.filter((answer) => !answer.isError);
    expect(done).to.have.length(5);
    expect(answers.filter((answer) => answer.isError)).to.have.length(5);
    const left = done.map((answer) => (answer.structuredContent as { left: number }).left);
    expect(left.sort()).to.deep.equal([0, 1, 2, 3, 4]);
    expect(done[0]!.structuredContent).to.include({ half: 0.5, most: 1 });
    const { items } = await house.api.tableRows({ name: 'stock' });
    expect(items.map((row) => row.count)).to.deep.equal([0]);
    await Promise.all(clients.map((client) => client.close()));
  });

  it('read what a row holds as data, never as an expression', async () => {
    house.service.flows.drafts.save(`
format: pindro/flow@1
name: rename-item
input: { type: object, properties: { to: { type: string } } }
steps:
  name: { kind: table, with: { table: stock, do: change, where: { item: blanket }, set: { item: "\${ input.to }" } } }
result: "\${ steps.name.rows }"
`);
    const to = '${ row.count }';
    const { result } = await house.api.runFlow({ name: 'rename-item', body: { input: { to } } });
    expect(result).to.deep.equal([{ id: 1, item: to, count: 0 }]);
    await house.api.updateRow({ name: 'stock', row: '1', body: { set: { item: 'blanket' } } });
  });

  it('are told where a rule of the builder has no value, and not to send what may not be sent', async () => {
    await house.api.describeTool({
      name: 'main',
      tool: 'take_one',
      body: { arguments: { item: { set: '${ caller.item }' } } },
    });
    const client = await connect(house.service, key, 'main');
    const answer = await callTool(client, 'take_one', {});
    const text = JSON.stringify(answer.content);
    expect(text)
      .to.match(/caller\.item/)
      .and.to.match(/rule|builder/i);
    expect(text).not.to.match(/Send (?:the call|it) again with/);
    await client.close();
  });
});
