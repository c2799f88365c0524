/** Counters of calls through endpoints, in addition to the public metrics. */
export interface Use {
  endpoint: string;
  tool: string;
  caller: string;
  /** The argument because of which the call was refused. */
  refused: string | null;
}
/** All calls of a tool, those of one caller, or those that were refused for one argument. */
export type UseOf = 'use' | 'used' | 'refused';

/** By which names a call is counted. */
export const useNames = ({ endpoint, tool, caller, refused }: Use): string[] => [
  nameOf('use', endpoint, tool),
  nameOf('used', endpoint, tool, caller),
  ...(refused === null ? [] : [nameOf('refused', endpoint, tool, refused)]),
];

const nameOf = (of: UseOf, ...parts: string[]) => `${of}:${JSON.stringify(parts)}`;

/** @returns null for a name that is none of a use */
export function readUse(what: string): { of: UseOf; endpoint: string; tool: string; more: string } | null {
  const cut = what.indexOf(':');
  const of = what.slice(0, cut) as UseOf;
  if (of !== 'use' && of !== 'used' && of !== 'refused') return null;
  const [endpoint = '', tool = '', more = ''] = JSON.parse(what.slice(cut + 1)) as string[];
  return { of, endpoint, tool, more };
}
