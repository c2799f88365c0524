import { detail, failureRule, firstWords } from '../../rule.js';

const WAYS: Record<string, string> = { http: 'streamable HTTP', sse: 'HTTP with events, the older transport' };

export const notAServer = failureRule({
  code: 'not_a_tool_server',
  about: 'The server at an address is not a tool server: a page, a login, a gateway, or the older transport.',
  todo: 'Correct the address, or switch the transport. Ask the operator for the address of the server.',
  codes: ['server_not_mcp'],
  needs: (failure) => (detail(failure, 'server') ? [{ of: 'server', name: detail(failure, 'server'), way: true }] : []),
  explain: (failure, _trace, facts) => {
    const server = detail(failure, 'server');
    const fact = facts.get({ of: 'server', name: server, way: true });
    const words = firstWords(detail(failure, 'body'));
    const now = fact?.speaksNow;
    const isOtherwise = fact && now && now !== fact.transport;
    return {
      title: `The server at the address of tool server "${server}" is not a tool server${words ? `: ${words.slice(0, 60)}` : ''}`,
      why: failure.error.message,
      fix: isOtherwise ? `It now uses ${WAYS[now] ?? now}. Switch to that transport.` : failure.error.hint,
      place: { server },
      quotes: [words],
      ...(isOtherwise && { cure: { do: 'transport', server, from: fact.transport, to: now } as const }),
    };
  },
});
