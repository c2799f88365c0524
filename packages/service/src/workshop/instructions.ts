import { WORKSHOP } from '@pindro/contract';

/** What an assistant is told as it connects. */
export const INSTRUCTIONS =
  'Flows that people of this workspace built, for an assistant that writes software around them. Begin with survey_flows, and read_contract before you call or build on a flow. Look at failed runs with look_at_runs and explain_run before you guess. You propose changes; a person publishes them.';

/** A short brief for an assistant, to paste into its instructions. */
export function brief({ url, flows }: { url: string; flows: readonly string[] }): string {
  return `# Working with our flows

The MCP server "${WORKSHOP}" at ${url} opens flows of our Pindro workspace to you${flows.length > 0 ? `: ${flows.join(', ')}` : ''}.

- Begin with survey_flows. Before you write code that calls a flow, read its contract with read_contract and follow it to the letter: names, types, which arguments are required, what comes back.
- Call a flow from software by one of its ways_to_call (tool, web hook or form). perform_flow is for trying it; it has real effects, so ask before you use it on a flow that changes things.
- Write down the revision you built against. When you come back, read_contract with "since" says what changed, and whether it breaks you.
- When something fails, use look_at_runs and explain_run. Quote the run and what was found; do not guess.
- To change a flow, use read_flow and read_format, then propose_flow with the reason. A person decides and publishes. Never say that it is done before follow_proposal says it is live.
- Never put a key or another secret into code, a flow or a message.
`;
}
