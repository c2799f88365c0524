/* Parts of messages that identify their request. */

type Id = string | number;
interface Message {
  id?: Id;
  method?: unknown;
}

/** The ids of requests in what is sent to a server. */
export const idsIn = (body: unknown): Id[] =>
  read(body).flatMap(({ id, method }) => (method !== undefined && id !== undefined ? [id] : []));

/** The ids of requests that are answered in what a server says. */
export const repliesIn = (body: unknown): Id[] => repliesOf(read(body));

/** The same of messages that are read already. */
export const repliesOf = (messages: unknown): Id[] =>
  [messages]
    .flat()
    .filter((one): one is Message => typeof one === 'object' && one !== null)
    .flatMap(({ id, method }) => (method === undefined && id !== undefined ? [id] : []));

function read(body: unknown): Message[] {
  if (typeof body !== 'string') return [];
  try {
    const value: unknown = JSON.parse(body);
    return [value].flat().filter((one): one is Message => typeof one === 'object' && one !== null);
  } catch {
    return [];
  }
}
