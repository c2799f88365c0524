/** How a tool server is spoken to. */
export interface TransportDescriptor {
  /** Its name as people read it. */
  readonly words: string;
  /** What it leads to: a web address, or a program of this machine. */
  readonly reaches: 'address' | 'program';
  /** Whether the type that client settings or a catalogue state is this one. */
  readonly said: RegExp;
}

/**
 * Every transport of MCP that a tool server can be spoken to with. An address is tried with them in this order, the
 * newest first. A new one is a line here, and a file with a line in `service/servers/transports`.
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
/** Those that lead to an address, the newest first. */
export const ADDRESS_TRANSPORTS = NAMES.filter((name) => TRANSPORTS[name].reaches === 'address');
/** The one that is assumed where nobody says and nothing can be tried. */
export const DEFAULT_TRANSPORT: TransportName = 'http';
/** The one that speaks with a program. */
export const PROGRAM_TRANSPORT: TransportName = 'stdio';

/**
 * Which transport to an address a stated type means; null where it means none.
 * @param type such as `streamable-http`
 * @returns the name of the transport, or null
 */
export const transportSaid = (type: string): TransportName | null =>
  ADDRESS_TRANSPORTS.find((name) => TRANSPORTS[name].said.test(type.toLowerCase())) ?? null;
