import type { TestPart } from './server-resources.js';

/** The parts of the test of a server, as people read them. */
export const PART_WORDS: Record<TestPart['part'], string> = {
  name: 'Name',
  reach: 'Host reachable',
  program: 'Program started',
  speak: 'MCP handshake',
  allow: 'Access granted',
  list: 'Tools listed',
};
