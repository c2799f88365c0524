import { detail, failureRule, firstWords } from '../rule.js';

/** Statuses with which servers of the older transport answer a message of the newer one. */
const OLDER = ['404', '405', '400'];

export const notAServer = failureRule({
  code: 'not_a_tool_server',
  about: 'Something answered where a tool server was expected: a page, a login, a gateway, or the older transport.',
  todo: 'Correct the address, or switch the transport; ask whoever keeps it where the server is.',
  codes: ['server_not_mcp'],
  needs: (failure) => (detail(failure, 'server') ? [{ of: 'server', name: detail(failure, 'server') }] : []),
  explain: (failure, _trace, facts) => {
    const server = detail(failure, 'server');
    const fact = facts.get({ of: 'server', name: server });
    const words = firstWords(detail(failure, 'body'));
    const status = detail(failure, 'status');
    const isOlder = OLDER.includes(status) && fact?.transport === 'http';
    return {
      title: `What answers at the address of tool server "${server}" is no tool server${words ? `: ${words.slice(0, 60)}` : ''}`,
      why: failure.error.message,
      fix: isOlder
        ? `${failure.error.hint} Or it speaks the older transport: switch it to HTTP with events.`
        : failure.error.hint,
      place: { server },
      quotes: [words],
      ...(isOlder && { cure: { do: 'transport', server, from: 'http', to: 'sse' } as const }),
    };
  },
});
