import { WORKSHOP } from '@pindro/contract';

/** Instructions that an assistant receives when it connects. */
export const INSTRUCTIONS =
  'Flows of this workspace, for an assistant that writes software around them. Start with survey_flows, and use read_contract before you call or build on a flow. Inspect failed runs with look_at_runs and explain_run before you guess. You propose changes; a person publishes them.';

/** A short brief for an assistant, to paste into its instructions. */
export function brief({ url, flows }: { url: string; flows: readonly string[] }): string {
  return `# Working with our flows

The MCP server "${WORKSHOP}" at ${url} opens flows of our Pindro workspace to you${flows.length > 0 ? `: ${flows.join(', ')}` : ''}.

- Start with survey_flows. Before you write code that calls a flow, read its contract with read_contract and follow it to the letter: names, types, required arguments, and the result.
- Call a flow from software by one of its ways_to_call (tool, webhook or form). perform_flow is for trials; it has real effects, so ask before you use it on a flow that changes things.
- Write down the revision you built against. Later, read_contract with "since" says what changed, and whether it breaks you.
- When something fails, use look_at_runs and explain_run. Quote the run and its finding; do not guess.
- To change a flow, use read_flow and read_format, then propose_flow with the reason. A person decides and publishes. Never report it as done before follow_proposal says it is live.
- Never put a key or another secret into code, a flow or a message.
`;
}
