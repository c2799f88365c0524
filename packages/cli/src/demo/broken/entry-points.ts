import { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';
import { type Broken, type Ground, saveFlow } from './broken.js';

const SAYS = { kind: 'text', with: { text: 'snow' } };
const RETURNS = { type: 'object', required: ['word'], properties: { word: { type: 'string' } } };

/** Calls a tool of the endpoint `huts` as a client that knows no better. @returns the run of the call */
async function callAs({ service, api, wardenKey }: Ground, tool: string, args: Record<string, unknown>) {
  const client = new Client({ name: 'hut-tablet', version: '1.4.0' });
  const transport = new StreamableHTTPClientTransport(new URL(`${service.url}/mcp/huts`), {
    requestInit: { headers: { Authorization: `Bearer ${wardenKey}` } },
  });
  await client.connect(transport);
  await client.callTool({ name: tool, arguments: args }).catch(() => {});
  await transport.terminateSession().catch(() => {});
  await client.close();
  const { items } = await api.listRuns({ query: { endpoint: 'huts', roots: 'true', limit: 1 } });
  return items[0]!.id;
}

/** What is wrong with a call from outside. */
export const WAYS_IN: readonly Broken[] = [
  {
    code: 'tool_not_offered',
    about: 'a client that calls a tool by a name the endpoint does not have',
    run: (ground) => callAs(ground, 'reserve_bunk', { hut: 'larch' }),
  },
  {
    code: 'arguments_refused',
    about: 'a call without the night',
    run: (ground) => callAs(ground, 'reserve_bunks', { hut: 'kestrel', party: 4 }),
  },
  {
    code: 'answer_withheld',
    about: 'a result that is not what the endpoint promises',
    run: async (ground) => {
      await saveFlow(
        ground.api,
        'weather-word',
        {
          title: 'The weather in a word',
          description: 'Tells the weather.',
          steps: { say: SAYS },
          result: '${ steps.say.text }',
        },
        true,
      );
      await ground.api.addTools({
        name: 'huts',
        body: { tools: { weather_word: { flow: 'weather-word', returns: RETURNS } } },
      });
      return callAs(ground, 'weather_word', {});
    },
  },
];
