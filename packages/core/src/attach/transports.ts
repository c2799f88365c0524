/** Properties of a transport. */
export interface TransportDescriptor {
  /** Its name as people read it. */
  readonly words: string;
  /** What it leads to: a web address, or a program of this machine. */
  readonly reaches: 'address' | 'program';
  /** Whether the type that client settings or a catalogue state is this one. */
  readonly said: RegExp;
}

/**
 * MCP transports for tool servers. An address is tried with them in this order, newest first. A new one is a line
 * here, and a file with a line in `service/servers/transports`.
 */
export const TRANSPORTS = {
  http: { words: 'Streamable HTTP', reaches: 'address', said: /http/ },
  sse: { words: 'HTTP+SSE, the older transport', reaches: 'address', said: /^sse$/ },
  stdio: { words: 'stdio (a local program)', reaches: 'program', said: /^stdio$/ },
} as const satisfies Record<string, TransportDescriptor>;

export type TransportName = keyof typeof TRANSPORTS;

const NAMES = Object.keys(TRANSPORTS) as [TransportName, ...TransportName[]];

/** Names of all transports. */
export const TRANSPORT_NAMES = NAMES;
/** Transports for addresses, newest first. */
export const ADDRESS_TRANSPORTS = NAMES.filter((name) => TRANSPORTS[name].reaches === 'address');
/** Transport that is assumed if none is given and none can be tried. */
export const DEFAULT_TRANSPORT: TransportName = 'http';
/** Transport for programs. */
export const PROGRAM_TRANSPORT: TransportName = 'stdio';

/**
 * Finds the transport that a stated type means. Returns null if it means none.
 * @param type such as `streamable-http`
 * @returns the name of the transport, or null
 */
export const transportSaid = (type: string): TransportName | null =>
  ADDRESS_TRANSPORTS.find((name) => TRANSPORTS[name].said.test(type.toLowerCase())) ?? null;
