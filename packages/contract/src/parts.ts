import type { TestPart } from './server-resources.js';

/** Labels of the stages of a connection test. */
export const PART_WORDS: Record<TestPart['part'], string> = {
  name: 'Name',
  reach: 'Host reachable',
  program: 'Program started',
  speak: 'MCP handshake',
  allow: 'Access granted',
  list: 'Tools listed',
};
