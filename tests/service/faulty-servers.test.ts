import { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import { expect } from 'chai';
import { type OddServer, oddServer } from '../support/faulty-server.js';
import { type Workspace, workspace } from '../support/workspace.js';

const PICTURE = { type: 'image', data: 'iVBORw0KGgo=', mimeType: 'image/png' };
const plain = { type: 'object', properties: {} };

/** What a standard client is given by endpoint `main`, which needs a key of its own. */
async function clientOf(house: Workspace): Promise<Client> {
  const { key } = await house.api.issueKey({ body: { name: 'ines', endpoints: ['main'] } });
  const client = new Client({ name: 'standard', version: '1' });
  const requestInit = { headers: { authorization: `Bearer ${key}` } };
  const url = new URL(`${house.service.url}/mcp/main`);
  await client.connect(new StreamableHTTPClientTransport(url, { requestInit }));
  return client;
}

describe('what somebody else’s tools bring along', () => {
  let house: Workspace;
  let odd: OddServer;
  const begin = async (...given: Parameters<typeof oddServer>) => {
    house = await workspace();
    odd = await oddServer(...given);
    await house.api.attachServer({ body: { name: 'odd', url: odd.url } });
    await house.api.createEndpoint({ body: { document: { format: 'pindro/endpoint@1', name: 'main' } } });
  };
  afterEach(async () => {
    await house.close();
    odd.close();
  });

  it('reaches a client that takes no odd schema: the list is whole, and the review says what was left out', async () => {
    await begin(
      [
        { name: 'fine', description: 'Is fine.', inputSchema: plain },
        { name: 'anything', inputSchema: { type: 'object', properties: { what: true, never: false } } },
        { name: 'listing', inputSchema: plain, outputSchema: { type: 'array', items: { type: 'string' } } },
        {
          name: 'broken',
          inputSchema: plain,
          outputSchema: { type: 'object', properties: { a: { type: 'nonsense' } } },
        },
        { name: 'hinted', inputSchema: plain, annotations: { readOnlyHint: 'yes', openWorldHint: false, title: 3 } },
        { name: 'bare' },
        { name: 'slow_task', inputSchema: plain, execution: { taskSupport: 'required' } },
      ],
      () => ({ content: [{ type: 'text', text: 'ok' }] }),
      { instructions: 'Ask for the day first.' },
    );
    await house.api.addTools({ name: 'main', body: { servers: { odd: {} } } });
    const client = await clientOf(house);
    const { tools } = await client.listTools();
    expect(tools.map(({ name }) => name)).to.include.members([
      'fine',
      'anything',
      'listing',
      'broken',
      'hinted',
      'bare',
    ]);
    expect(tools.find(({ name }) => name === 'hinted')!.annotations).to.deep.equal({ openWorldHint: false });
    expect(tools.find(({ name }) => name === 'fine')!.annotations ?? {}).to.deep.equal({});
    expect(client.getInstructions()).to.equal('Ask for the day first.');
    expect(await client.callTool({ name: 'listing', arguments: {} })).to.deep.include({
      content: [{ type: 'text', text: 'ok' }],
    });
    const refused = await client.callTool({ name: 'slow_task', arguments: {} });
    expect(JSON.stringify(refused)).to.contain('only as a task');
    const { suggestions } = await house.api.reviewEndpoint({ name: 'main', query: {} });
    const left = suggestions.filter(({ code }) => code === 'left_out').map(({ tool }) => tool);
    expect(left).to.have.members(['listing', 'broken', 'hinted']);
    // Nobody has said whether these read or write, so that no name is taken for misleading.
    expect(suggestions.filter(({ code }) => code === 'name_misleads')).to.deep.equal([]);
    await client.close();
  });

  it('comes through a flow as it is: pictures, texts inside, data, and results called content', async () => {
    await begin([{ name: 'look', inputSchema: plain }], () => ({
      content: [PICTURE, { type: 'resource', resource: { uri: 'odd://a', text: 'The slope is open.' } }],
      structuredContent: { open: true },
      _meta: { seen: 1 },
    }));
    house.service.flows.drafts.save(`
format: pindro/flow@1
name: picture
description: Shows the slope as it is now.
steps:
  look: { kind: tool, with: { server: odd, tool: look } }
result: { content: "\${ steps.look.content }", data: "\${ steps.look.data }" }
`);
    house.service.flows.drafts.save(`
format: pindro/flow@1
name: told
description: Tells how it looks.
steps:
  look: { kind: tool, with: { server: odd, tool: look } }
result: { content: [{ type: text, text: "\${ steps.look.text }" }] }
`);
    for (const name of ['picture', 'told']) house.service.flows.revisions.publish(name);
    await house.api.addTools({
      name: 'main',
      body: { tools: { picture: { flow: 'picture' }, told: { flow: 'told' }, look: { server: 'odd', tool: 'look' } } },
    });
    const client = await clientOf(house);
    await client.listTools();
    for (const tool of ['picture', 'look']) {
      const shown = await client.callTool({ name: tool, arguments: {} });
      expect((shown.content as unknown[])[0], tool).to.deep.equal(PICTURE);
      expect(shown.structuredContent, tool).to.deep.equal({ open: true });
    }
    const told = await client.callTool({ name: 'told', arguments: {} });
    expect(told.isError ?? false).to.equal(false);
    expect(JSON.stringify(told.content)).to.contain('The slope is open.');
    await client.close();
  });

  it('keeps the data of an error, and calls go on as long as their step may', async () => {
    await begin([{ name: 'fail', inputSchema: plain }], () => ({
      content: [{ type: 'text', text: 'too heavy' }],
      structuredContent: { most: 350 },
      isError: true,
    }));
    await house.api.addTools({ name: 'main', body: { tools: { fail: { server: 'odd', tool: 'fail' } } } });
    const client = await clientOf(house);
    const failed = await client.callTool({ name: 'fail', arguments: {} });
    expect(failed).to.deep.include({ isError: true, structuredContent: { most: 350 } });
    await client.close();
  });
});
