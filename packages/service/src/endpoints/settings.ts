import { type ClientSettings, KEY_GAP } from '@pindro/contract';

interface Given {
  endpoint: string;
  /** Address of the endpoint. */
  url: string;
  /** Address of the service. */
  service: string;
  /** How the command line is called on this machine: a program and its first arguments. */
  command: readonly string[];
  key?: string;
  /** Whether the endpoint is open, so that no key is sent. */
  open: boolean;
}

const RESTART = 'Many clients read their settings only at startup: quit the client completely, then start it again.';
const WHERE =
  'Clients usually keep such settings in a file that their settings window opens, under a heading such as “MCP servers” or “Developer”. Merge the snippet into it.';
const json = (value: unknown) => JSON.stringify(value, null, 2);
const quoted = (text: string) => (/^[\w@%+=:,./-]+$/.test(text) ? text : `'${text.replaceAll("'", `'\\''`)}'`);

/** Settings to paste into a client, for each shape of client. Made from data, so that the JSON always parses. */
export function clientSettings({ endpoint, url, service, command, key = KEY_GAP, open }: Given): ClientSettings[] {
  const headers = open ? {} : { Authorization: `Bearer ${key}` };
  const withHeaders = open ? {} : { headers };
  const [program = 'pindro', ...before] = command;
  const args = [...before, 'bridge', endpoint, '--url', service];
  const env = open ? {} : { env: { PINDRO_KEY: key } };
  const initialize = {
    jsonrpc: '2.0',
    id: 1,
    method: 'initialize',
    params: { protocolVersion: '2025-11-25', capabilities: {}, clientInfo: { name: 'curl', version: '1' } },
  };
  return [
    {
      shape: 'json',
      title: 'Settings file',
      about: `For clients that accept an address and headers. ${WHERE} ${RESTART}`,
      language: 'json',
      text: json({ mcpServers: { [endpoint]: { type: 'http', url, ...withHeaders } } }),
    },
    {
      shape: 'command-json',
      title: 'Settings file with a command',
      about: `For clients that only start programs (stdio); the program forwards everything to the endpoint. ${WHERE} ${RESTART}`,
      language: 'json',
      text: json({ mcpServers: { [endpoint]: { command: program, args, ...env } } }),
    },
    {
      shape: 'older-json',
      title: 'Settings file, older transport',
      about: `For clients that support only HTTP with server-sent events. ${RESTART}`,
      language: 'json',
      text: json({ mcpServers: { [endpoint]: { type: 'sse', url: `${url}/sse`, ...withHeaders } } }),
    },
    {
      shape: 'command',
      title: 'Command line',
      about: 'For clients that ask for a command to start a server.',
      language: 'sh',
      text: `${open ? '' : `PINDRO_KEY=${quoted(key)} `}${[program, ...args].map(quoted).join(' ')}`,
    },
    {
      shape: 'typescript',
      title: 'TypeScript',
      about: "A few lines with the protocol's SDK, @modelcontextprotocol/sdk.",
      language: 'typescript',
      text: [
        "import { Client } from '@modelcontextprotocol/sdk/client/index.js';",
        "import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';",
        '',
        `const transport = new StreamableHTTPClientTransport(new URL(${JSON.stringify(url)}), {`,
        `  requestInit: { headers: ${JSON.stringify(headers)} },`,
        '});',
        "const client = new Client({ name: 'my-client', version: '1.0.0' });",
        'await client.connect(transport);',
        'console.log(await client.listTools());',
      ].join('\n'),
    },
    {
      shape: 'curl',
      title: 'curl',
      about: 'A request that tests the address and key.',
      language: 'sh',
      text: [
        `curl -sS ${quoted(url)} \\`,
        ...(open ? [] : [`  -H ${quoted(`Authorization: Bearer ${key}`)} \\`]),
        "  -H 'Content-Type: application/json' \\",
        "  -H 'Accept: application/json, text/event-stream' \\",
        `  -d ${quoted(JSON.stringify(initialize))}`,
      ].join('\n'),
    },
  ];
}
