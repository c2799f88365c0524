import { randomUUID } from 'node:crypto';
import type { McpServer } from '@modelcontextprotocol/sdk/server/mcp.js';
import { SSEServerTransport } from '@modelcontextprotocol/sdk/server/sse.js';
import { StreamableHTTPServerTransport } from '@modelcontextprotocol/sdk/server/streamableHttp.js';
import express, { type Express, type Request } from 'express';

type Make = (request: Request) => McpServer;

/** Lets MCP in at an address, over Streamable HTTP. @param make a server for each session */
export function openDoor(app: Express, path: string, make: Make): void {
  const sessions = new Map<string, StreamableHTTPServerTransport>();
  app.all(path, express.json(), async (request, response) => {
    const id = request.headers['mcp-session-id'];
    const known = typeof id === 'string' ? sessions.get(id) : undefined;
    if (id !== undefined && !known)
      return void response
        .status(404)
        .json({ jsonrpc: '2.0', id: null, error: { code: -32001, message: 'Session not found' } });
    if (known) return known.handleRequest(request, response, request.body);
    const transport = new StreamableHTTPServerTransport({
      sessionIdGenerator: () => randomUUID(),
      onsessioninitialized: (fresh) => void sessions.set(fresh, transport),
      onsessionclosed: (gone) => void sessions.delete(gone),
    });
    await make(request).connect(transport);
    await transport.handleRequest(request, response, request.body);
  });
}

/** Lets MCP in as the protocol had it in 2024-11-05: a stream at one address, messages to another. */
export function openOlderDoor(app: Express, path: string, make: Make): void {
  const sessions = new Map<string, SSEServerTransport>();
  const messages = `${path}/messages`;
  app.get(path, async (request, response) => {
    const transport = new SSEServerTransport(messages, response);
    sessions.set(transport.sessionId, transport);
    response.on('close', () => sessions.delete(transport.sessionId));
    await make(request).connect(transport);
  });
  app.post(messages, express.json(), async (request, response) => {
    const session = sessions.get(String(request.query.sessionId));
    if (!session) return void response.status(404).json({ error: 'there is no such session' });
    await session.handlePostMessage(request, response, request.body);
  });
}
