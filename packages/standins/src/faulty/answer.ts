import { type Asked, FAULTS, LISTS, type Whole } from './faults.js';

export interface Message {
  id?: string | number;
  method: string;
  params?: {
    name?: string;
    arguments?: Record<string, unknown>;
    cursor?: string;
    protocolVersion?: string;
    _meta?: { progressToken?: string | number };
  };
}

const PAGE = 500;

/** Answers one message as the misbehaving server does. */
export function answer(
  { id, method, params = {} }: Message,
  whole: Whole,
  how: Omit<Asked, 'id' | 'arguments' | 'progressToken'>,
): void {
  if (id === undefined) return;
  const asked: Asked = { ...how, id, arguments: params.arguments ?? {}, progressToken: params._meta?.progressToken };
  const result = (given: object) => how.send({ jsonrpc: '2.0', id, result: given });
  const fault = FAULTS[params.name === 'well' ? 'good' : (params.name ?? '')];
  if (method === 'initialize') result(hello(params.protocolVersion));
  else if (method === 'tools/list') result(listed(whole, Number(params.cursor ?? 0)));
  else if (lacksHut(whole, params))
    how.send({ jsonrpc: '2.0', id, error: { code: -32_602, message: 'It now says for which hut.' } });
  else if (fault) fault(asked, whole);
  else how.send({ jsonrpc: '2.0', id, error: { code: -32_602, message: `there is no ${params.name ?? method}` } });
}

/** Where it wants an argument more, it refuses who does not send it. */
const lacksHut = ({ list }: Whole, { name, arguments: given = {} }: NonNullable<Message['params']>) =>
  list === 'stricter' && name === 'slow' && given.hut === undefined;

const hello = (protocolVersion = '2025-06-18') => ({
  protocolVersion,
  capabilities: { tools: { listChanged: true } },
  serverInfo: { name: 'Faulty', version: '1' },
});

function listed({ list }: Whole, from: number): object {
  const tools = LISTS[list]();
  const end = from + PAGE;
  return { tools: tools.slice(from, end), ...(end < tools.length && { nextCursor: String(end) }) };
}
