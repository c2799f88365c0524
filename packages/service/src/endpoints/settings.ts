import { type ClientSettings, KEY_GAP } from '@pindro/contract';

/** Settings to paste into a client, for each shape of client. Made from data, so that the JSON always parses. */
export function clientSettings(endpoint: string, url: string, key: string = KEY_GAP): ClientSettings[] {
  const authorization = `Bearer ${key}`;
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
      about:
        'For clients that take an address and headers. Merge it into the settings the client has; many read them only at a full restart.',
      language: 'json',
      text: JSON.stringify(
        { mcpServers: { [endpoint]: { type: 'http', url, headers: { Authorization: authorization } } } },
        null,
        2,
      ),
    },
    {
      shape: 'typescript',
      title: 'TypeScript',
      about: "A few lines with the protocol's own SDK, @modelcontextprotocol/sdk.",
      language: 'typescript',
      text: [
        "import { Client } from '@modelcontextprotocol/sdk/client/index.js';",
        "import { StreamableHTTPClientTransport } from '@modelcontextprotocol/sdk/client/streamableHttp.js';",
        '',
        `const transport = new StreamableHTTPClientTransport(new URL(${JSON.stringify(url)}), {`,
        `  requestInit: { headers: { Authorization: ${JSON.stringify(authorization)} } },`,
        '});',
        "const client = new Client({ name: 'my-client', version: '1.0.0' });",
        'await client.connect(transport);',
        'console.log(await client.listTools());',
      ].join('\n'),
    },
    {
      shape: 'curl',
      title: 'curl',
      about: 'One request that shows whether address and key are right.',
      language: 'sh',
      text: [
        `curl -sS ${url} \\`,
        `  -H 'Authorization: ${authorization}' \\`,
        "  -H 'Content-Type: application/json' \\",
        "  -H 'Accept: application/json, text/event-stream' \\",
        `  -d '${JSON.stringify(initialize)}'`,
      ].join('\n'),
    },
  ];
}
