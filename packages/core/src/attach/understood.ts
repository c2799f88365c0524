/** One value that goes along with a connection: a header, a query parameter, an argument, an environment variable. */
export interface Going {
  /** What it is called; empty for an argument that stands by itself. */
  name: string;
  value: string;
  /** What stands in front of the value of an argument, such as `--token=`. */
  before?: string;
  /** Whether it is kept sealed as a credential. */
  secret: boolean;
  /** Whether only its place is known, and somebody has to fill it in. */
  missing: boolean;
}

/** A server that is reached at an address. */
export interface AddressWay {
  via: 'address';
  url: string;
  /** How it speaks, where somebody said so; else it is found by trying. */
  transport: 'http' | 'sse' | null;
  headers: Going[];
  query: Going[];
}

/** A server that is a program of this machine, spoken to through its standard input and output. */
export interface CommandWay {
  via: 'command';
  command: string;
  args: Going[];
  env: Going[];
  /** The folder it works in. */
  cwd: string | null;
}

/** A server as it was understood out of what somebody has of it. */
export interface Understood {
  /** A name for it here. */
  name: string;
  title: string;
  way: AddressWay | CommandWay;
  /** What was mended, as sentences. */
  repairs: string[];
}

export const going = (name: string, value: string, more: Partial<Going> = {}): Going => ({
  ...{ name, value, secret: false, missing: false },
  ...more,
});
