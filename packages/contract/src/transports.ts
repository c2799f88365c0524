/** Ways to speak with a tool server at an address: Streamable HTTP, and HTTP+SSE of the protocol's version 2024-11-05. */
export const ADDRESS_SPEAKS = ['http', 'sse'] as const;
/** All ways: also a program of this machine, through its standard input and output. */
export const SPEAKS = [...ADDRESS_SPEAKS, 'stdio'] as const;
export type Speaks = (typeof SPEAKS)[number];

/** The same as people read them. */
export const SPEAKS_WORDS: Record<Speaks, string> = {
  http: 'Streamable HTTP',
  sse: 'HTTP+SSE, the older transport',
  stdio: 'stdio (a local program)',
};

/** What becomes of changes of a server's tools, as people read it. */
export const WATCH_WORDS = {
  hold: 'all changes are on hold until somebody accepts them',
  flagged: 'changes that a rule flags are on hold until somebody accepts them',
  allow: 'all changes are accepted automatically',
} as const;
