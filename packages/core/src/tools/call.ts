import type { JsonObject } from '../json/json.js';
import type { ArgumentRules, CredentialOwner, ToolDescription } from '../ports/ports.js';
import type { ToolSettings } from './settings.js';
import type { CallContext, ToolAnswer } from './source.js';
import { serverTool } from './sources/server.js';
import { tamed } from './wrap/index.js';
import { recorded } from './wrap/record.js';

/**
 * Calls one tool of an attached server as a span of the run.
 * @param whose credential to send
 * @throws caller_without_credential, tool_reported_error
 */
export const callServerTool = (
  server: string,
  tool: ToolDescription,
  rules: ArgumentRules,
  given: JsonObject,
  context: CallContext,
  { credential, ...settings }: { credential?: CredentialOwner | undefined } & ToolSettings = {},
): Promise<ToolAnswer> => recorded(tamed(serverTool(server, tool, rules, credential), settings), given, context);
