import { parseArgs } from 'node:util';
import { McpServer } from '@modelcontextprotocol/sdk/server/mcp.js';
import { StdioServerTransport as StandardStreams } from '@modelcontextprotocol/sdk/server/stdio.js';
import { z } from 'zod';
import { Reports } from './reports.js';

/*
 * The trail-report tool server: a program of its own that speaks MCP through its standard input and output, and writes
 * what it does to its standard error.
 */
const log = (text: string) => void process.stderr.write(`trail-report: ${text}\n`);
const { values } = parseArgs({
  options: {
    reports: { type: 'string' },
    /** Whoever reports a trail signs with it. */
    token: { type: 'string' },
  },
});

let reports: Reports;
try {
  reports = new Reports(values.reports);
} catch (error) {
  log((error as Error).message);
  log('give --reports FILE with one that is there, or leave it out');
  process.exit(2);
}
const signature = values.token ?? process.env.TRAIL_TOKEN ?? '';

const answer = (work: () => object) => {
  try {
    const structuredContent = { ...work() };
    return { content: [{ type: 'text' as const, text: JSON.stringify(structuredContent) }], structuredContent };
  } catch (error) {
    return { isError: true, content: [{ type: 'text' as const, text: (error as Error).message }] };
  }
};

const server = new McpServer(
  { name: 'Trail Report', version: '1.2.0' },
  { instructions: 'Ask for the report of a trail before you send anybody along it.' },
);
const trail = z.string().describe('Which trail, for example larch-traverse');
server.registerTool(
  'list_trails',
  { description: 'List the trails that there are reports on.', inputSchema: {}, annotations: { readOnlyHint: true } },
  () => answer(() => ({ trails: reports.trails() })),
);
server.registerTool(
  'trail_report',
  {
    description: 'Tell in which state a trail was when somebody reported it last.',
    inputSchema: { trail },
    annotations: { readOnlyHint: true },
  },
  ({ trail: name }) => {
    log(`asked about ${name}`);
    return answer(() => reports.latest(name));
  },
);
server.registerTool(
  'report_trail',
  {
    description: 'Report in which state a trail is. Needs the token of a warden.',
    inputSchema: {
      trail,
      state: z.enum(['open', 'careful', 'closed']).describe('How it is'),
      says: z.string().describe('What whoever comes should know'),
      day: z.iso.date().describe('When it was seen'),
    },
    annotations: { readOnlyHint: false, destructiveHint: false },
  },
  (report) =>
    answer(() => {
      if (signature === '') throw new Error('Reports are signed; start the program with --token or TRAIL_TOKEN.');
      return reports.add(report);
    }),
);
await server.connect(new StandardStreams());
log(`ready, with ${reports.trails().length} trails`);
