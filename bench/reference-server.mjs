/*
 * The tool of the benchmark written by hand on the protocol's SDK and Express with sessions, as the SDK's documentation
 * shows it. `--json` answers in plain JSON; without it each answer is a stream. `--tools N`, last, has so many of it.
 */
import { randomUUID } from 'node:crypto';
import { McpServer } from '@modelcontextprotocol/sdk/server/mcp.js';
import { StreamableHTTPServerTransport } from '@modelcontextprotocol/sdk/server/streamableHttp.js';
import express from 'express';
import { z } from 'zod';

const enableJsonResponse = process.argv.includes('--json');
const many = process.argv.includes('--tools') ? Number(process.argv.at(-1)) : 1;
const sessions = new Map();

function makeServer() {
  const server = new McpServer({ name: 'reference', version: '1.0.0' });
  for (let index = 0; index < many; index++)
    server.registerTool(
      index === 0 ? 'greet' : `greet_${index}`,
      { description: 'Greets a hut.', inputSchema: { hut: z.string(), party: z.number().int() } },
      ({ hut, party }) => ({
        content: [{ type: 'text', text: `${party} people are welcome in ${hut}.` }],
      }),
    );
  return server;
}

const app = express();
app.use(express.json());
app.all('/mcp', async (request, response) => {
  const id = request.headers['mcp-session-id'];
  const known = sessions.get(id);
  if (known) return known.handleRequest(request, response, request.body);
  const transport = new StreamableHTTPServerTransport({
    sessionIdGenerator: () => randomUUID(),
    enableJsonResponse,
    onsessioninitialized: (fresh) => sessions.set(fresh, transport),
  });
  await makeServer().connect(transport);
  await transport.handleRequest(request, response, request.body);
});
const http = app.listen(0, '127.0.0.1', () =>
  process.stdout.write(`${JSON.stringify({ url: `http://127.0.0.1:${http.address().port}/mcp` })}\n`),
);
