import { createServer, type RequestListener, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { createClient, openApi, ProblemError, routes, UnreachableError } from '@pindro/contract';
import { expect } from 'chai';

describe('the typed client', () => {
  let server: Server;
  let answer: RequestListener;
  let client: ReturnType<typeof createClient>;
  before(async () => {
    server = createServer((request, response) => answer(request, response));
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    client = createClient({ url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, key: 'k' });
  });
  after(() => {
    server.closeAllConnections();
    server.close();
  });

  it('has one function for every route', () => {
    expect(Object.keys(client)).to.have.members(Object.keys(routes));
  });

  it('puts names into the path, the rest into query and body, and the key into its header', async () => {
    const seen: {
      method?: string | undefined;
      url?: string | undefined;
      authorization?: string | undefined;
      body: string;
    }[] = [];
    answer = (request, response) => {
      let body = '';
      request.on('data', (piece) => {
        body += piece;
      });
      request.on('end', () => {
        seen.push({ method: request.method, url: request.url, authorization: request.headers.authorization, body });
        response.writeHead(200, { 'content-type': 'application/json' }).end('{}');
      });
    };
    await client.callServerTool({ name: 'a/b', tool: 'x y', body: { arguments: { n: 1 } } });
    await client.listRuns({ query: { flow: 'f&g', limit: 3 } });
    expect(seen).to.deep.equal([
      {
        method: 'POST',
        url: '/api/v1/servers/a%2Fb/tools/x%20y/call',
        authorization: 'Bearer k',
        body: '{"arguments":{"n":1}}',
      },
      { method: 'GET', url: '/api/v1/runs?flow=f%26g&limit=3', authorization: 'Bearer k', body: '' },
    ]);
  });

  it('gives problems as they were told, and makes one of what is none', async () => {
    answer = (_request, response) =>
      void response
        .writeHead(409, { 'content-type': 'application/problem+json' })
        .end('{"title":"taken","status":409,"code":"already_there","hint":"another"}');
    const told = await client.status().catch((error: unknown) => error);
    expect(told).to.be.instanceOf(ProblemError);
    expect((told as ProblemError).problem).to.include({ code: 'already_there', hint: 'another' });
    answer = (_request, response) => void response.writeHead(502).end('<html>');
    const odd = await client.status().catch((error: unknown) => error);
    expect((odd as ProblemError).problem).to.include({ status: 502, detail: 'The service returned 502' });
  });

  it('reads a stream event by event, also when they arrive in pieces', async () => {
    answer = (_request, response) => {
      response.writeHead(200, { 'content-type': 'text/event-stream' });
      response.write(': hello\n\ndata: {"type":"changed","what":"flow",');
      setTimeout(() => response.end('"name":"ä"}\n\ndata: {"type":"changed","what":"key","name":"2"}\n\n'), 20);
    };
    const names: string[] = [];
    for await (const event of client.events()) if (event.type === 'changed') names.push(event.name);
    expect(names).to.deep.equal(['ä', '2']);
  });

  it('stops reading when it is told to', async () => {
    answer = (_request, response) =>
      void response
        .writeHead(200, { 'content-type': 'text/event-stream' })
        .write('data: {"type":"changed","what":"flow","name":"1"}\n\n');
    const stop = new AbortController();
    const seen: unknown[] = [];
    const reading = (async () => {
      for await (const event of client.events({ signal: stop.signal })) {
        seen.push(event);
        stop.abort();
      }
    })().catch((error: Error) => error.name);
    expect(await reading).to.be.oneOf(['AbortError', undefined]);
    expect(seen).to.have.length(1);
  });

  it('says that nobody answers', async () => {
    const nobody = createClient({ url: 'http://127.0.0.1:1' });
    expect(await nobody.status().catch((error: unknown) => error)).to.be.instanceOf(UnreachableError);
  });
});

describe('the OpenAPI document', () => {
  const document = openApi('http://127.0.0.1:1', '1.2.3') as {
    paths: Record<
      string,
      Record<
        string,
        {
          parameters: { name: string; in: string }[];
          requestBody?: object;
          responses: Record<string, { content: object }>;
        }
      >
    >;
  };

  it('names every parameter of every path', () => {
    for (const [path, operations] of Object.entries(document.paths)) {
      for (const operation of Object.values(operations)) {
        const named = operation.parameters
          .filter((parameter) => parameter.in === 'path')
          .map((parameter) => parameter.name);
        expect(named, path).to.deep.equal([...path.matchAll(/\{(\w+)\}/g)].map((match) => match[1]));
      }
    }
  });

  it('says what is a stream and what has a body', () => {
    expect(document.paths['/events']!.get!.responses[200]!.content).to.have.property('text/event-stream');
    expect(document.paths['/flows']!.post!.requestBody).to.not.equal(undefined);
    expect(document.paths['/flows']!.get!.requestBody).to.equal(undefined);
    expect(JSON.stringify(document)).not.to.contain('"$schema"');
  });
});
