import { ErrorCode, McpError } from '@modelcontextprotocol/sdk/types.js';
import { type Json, type Masker, PindroError, systemCode } from '@pindro/core';
import { z } from 'zod';
import { networkCode, neverReached, reasonOf } from '../../platform/reason.js';
import { LOST, ODD } from '../transports/transport.js';

interface Circumstances {
  server: string;
  url: string;
  /** What was asked of it: a tool, or `initialize`. */
  tool: string;
  /** How long it was waited for, in milliseconds. */
  limit: number;
  /** The status that it answered with, where it did. */
  status: number | undefined;
  /** What it says it wants, where it refused; empty where it says nothing. */
  wants: string;
  /** Whether the time was up: a server may return the same code. */
  isLate: boolean;
  /** Whether the connection is closed: a server may return the same code. */
  isGone: boolean;
  /** What broke the stream before. */
  broken: unknown;
  masker: Masker;
}

/** Explains a server failure to builders. @param error `late` for a timeout */
export function explain(error: unknown, around: Circumstances): PindroError {
  const { server, url, tool, limit, status, wants, broken, masker, isLate, isGone } = around;
  const isBeginning = tool === 'initialize';
  const details = {
    ...{ server, address: url },
    ...(!isBeginning && { tool }),
    ...(status !== undefined && { status }),
    ...(wants && { wants }),
    ...(systemCode(error) && { network: systemCode(error) }),
  };
  const extra = { cause: error, details };
  if (status === 403 && !isBeginning) return new PindroError('tool_refused', { server, tool }, extra);
  if (status === 401 || status === 403 || /unauthorized/i.test((error as Error)?.name ?? ''))
    return new PindroError(
      'server_wants_key',
      { server, status: status ?? 401, wants: wants && `; the response says ${wants}` },
      extra,
    );
  if (status === 404 && !isBeginning) return new PindroError('server_lost', { server, tool }, extra);
  if (status !== undefined && LATER.has(status)) return new PindroError('server_busy', { server, status }, extra);
  if (error === 'late' || (isLate && isTimeout(error)))
    return new PindroError(
      'timed_out',
      { what: isBeginning ? `Tool server "${server}"` : `${tool} of ${server}`, limit: `${limit / 1000}s` },
      extra,
    );
  const isClosed = error instanceof McpError && error.code === ErrorCode.ConnectionClosed;
  if (isClosed && (isGone || error.data === LOST)) {
    const how = broken instanceof PindroError ? `. ${broken.message}` : '';
    return new PindroError('server_lost', { server, tool, how }, { ...extra, cause: broken });
  }
  if (error instanceof McpError && error.data === ODD)
    return new PindroError('tool_answer_odd', { server, tool }, extra);
  if (error instanceof McpError) {
    const why = error.message.replace(/^MCP error -?\d+: /, '');
    return new PindroError(
      'tool_reported_error',
      { tool: `${server}.${tool}`, why },
      { ...extra, details: { ...details, why, ...(error.data !== undefined && { data: error.data as Json }) } },
    );
  }
  if (neverReached(error)) return new PindroError('server_unreachable', { server, why: reasonOf(error) }, extra);
  if (networkCode(error) || /terminated/.test(reasonOf(error)))
    return isBeginning
      ? new PindroError('server_unreachable', { server, why: reasonOf(error) }, extra)
      : new PindroError('server_lost', { server, tool }, extra);
  // A request that failed without a code never left, for example because of its port.
  if ((error as Error)?.message === 'fetch failed')
    return new PindroError('server_unreachable', { server, why: reasonOf(error) }, extra);
  if (!isBeginning && (status ?? 0) >= 500)
    return new PindroError('tool_broke', { server, tool, status: status! }, extra);
  if (!isBeginning && isIllFormed(error)) return new PindroError('tool_answer_odd', { server, tool }, extra);
  const { why, fix } = status ? ofStatus(status) : ofContent(error, masker);
  return new PindroError('server_not_mcp', { address: url, why, fix }, extra);
}

/** Whether an answer came that is none of the protocol. */
const isIllFormed = (error: unknown) =>
  error instanceof z.ZodError || (error as Error)?.name === 'ZodError' || error instanceof SyntaxError;
const isTimeout = (error: unknown) => error instanceof McpError && error.code === ErrorCode.RequestTimeout;
/** Statuses that mean: not now. */
const LATER = new Set([429, 502, 503, 504]);

const OTHER_PATH = 'Check the path; MCP servers are often at /mcp or /sse.';

function ofStatus(status: number): { why: string; fix: string } {
  const why = `it returned ${status}`;
  if (status === 405) return { why, fix: `It does not accept messages at this address. ${OTHER_PATH}` };
  if (status >= 300 && status < 400)
    return { why, fix: 'It redirects; use the target address. Keys are not sent to another address.' };
  if (status >= 500) return { why, fix: 'It has an internal error; ask its operator, or check its log.' };
  return { why, fix: OTHER_PATH };
}

function ofContent(error: unknown, masker: Masker): { why: string; fix: string } {
  const text = masker.text(error instanceof Error ? error.message : String(error));
  if (/content type/i.test(text)) {
    const type = text.replace(/^.*content type:?\s*/i, '');
    const isPage = /html/i.test(type);
    return {
      why: `the response has content type ${type}`,
      fix: isPage ? `That is a web page. ${OTHER_PATH}` : OTHER_PATH,
    };
  }
  const odd = 'Ask its operator which protocol version it supports.';
  if (/JSON|Unexpected token/.test(text)) return { why: 'the response is not JSON', fix: odd };
  if (error instanceof z.ZodError || /invalid|ZodError/i.test(text))
    return { why: 'the response does not follow the protocol', fix: odd };
  return { why: text.split('\n')[0]!.slice(0, 200), fix: OTHER_PATH };
}
