import type { ArgumentRules, ToolDescription } from '../ports/ports.js';

export interface TableColumn {
  name: string;
  type: string;
}

/** Other things of the workspace, for checking names; omitted ones are not checked. */
export interface Surroundings {
  flows?: string[];
  tables?: string[];
  endpoints?: string[];
  models?: string[];
  credentials?: string[];
  /** Tools as last seen, by server; a server of which none is known is not held against them. */
  servers?: Record<string, ToolDescription[]>;
  /** Rules that stand on servers. */
  serverRules?: Record<string, ArgumentRules>;
  columns?: Record<string, TableColumn[]>;
  /** The names of the tools of endpoints whose tools are all chosen one by one. */
  endpointTools?: Record<string, string[]>;
  /** The flows that are tools of endpoints, by endpoint and tool. */
  endpointFlows?: Record<string, Record<string, string>>;
  /** To which flows the agents of each flow hand work. */
  handsTo?: Record<string, string[]>;
  /** The flow that is checked. */
  self?: string;
}
