import type { JsonObject } from '../json/json.js';
import type { ArgumentRules, CredentialOwner, ToolDescription } from '../ports/ports.js';
import type { ToolSettings } from './settings.js';
import type { CallContext, ToolAnswer } from './source.js';
import { serverTool } from './sources/server.js';
import { tamed } from './wrap/index.js';
import { recorded } from './wrap/record.js';

/** A tool of an attached server, as a step calls it. */
interface CalledTool {
  /** Name of the server. */
  server: string;
  tool: ToolDescription;
  rules: ArgumentRules;
  /** Whose credential to send; that of the server if omitted. */
  credential?: CredentialOwner | undefined;
}

/**
 * Calls one tool of an attached server as a span of the run.
 * @param called the tool, its server, rules and credential
 * @param given arguments before the rules of the server are applied
 * @param context of the step or agent that calls
 * @param settings of the call: time limit, caching, what is shortened
 * @returns what the tool answered
 * @throws caller_without_credential, tool_reported_error
 */
export const callServerTool = (
  { server, tool, rules, credential }: CalledTool,
  given: JsonObject,
  context: CallContext,
  settings: ToolSettings = {},
): Promise<ToolAnswer> => recorded(tamed(serverTool(server, tool, rules, credential), settings), given, context);
