import type { Thought } from './think.js';
import type { Refused, Said } from './wires/wire.js';

/** Faults of the model, by the name after the dash: `house-busy`. */
export interface Fault {
  about: string;
  /** Answers so late, in milliseconds. */
  slow?: number;
  refuses?: { kind: Refused; words: string; after?: number; everySecond?: boolean; inStream?: boolean };
  /** A setting that it refuses. */
  unsupported?: string;
  /** Sends this in place of an answer. */
  raw?: string;
  /** @param last the call that was made last since the question @param count how often the model was asked */
  says?(thought: Thought, made: number, last: Thought['calls'][number] | undefined, count: number): Partial<Said>;
}

const call = (name: string, args: Record<string, unknown>): Said['calls'][number] => ({
  ...{ name, arguments: args, written: JSON.stringify(args), isReadable: true },
});
const plain = ({ text, calls }: Thought): Pick<Said, 'text' | 'calls' | 'end'> => ({
  text,
  calls: calls.map(({ name, arguments: args }) => call(name, args)),
  end: calls.length > 0 ? 'calls' : 'answer',
});

export const FAULTS: Record<string, Fault> = {
  slow: { about: 'answers after a second', slow: 1000 },
  busy: {
    about: 'is asked too often, and says to come back in a minute',
    refuses: { kind: 'busy', words: 'Too many requests.', after: 60 },
  },
  hurried: {
    about: 'refuses every second question, and takes it at once when asked again',
    refuses: { kind: 'busy', words: 'One at a time.', after: 0, everySecond: true },
  },
  unpaid: { about: 'has no credit left', refuses: { kind: 'unpaid', words: 'Your credit is used up.' } },
  unknown: { about: 'is no model that there is', refuses: { kind: 'model', words: 'There is no such model.' } },
  full: { about: 'cannot read so much', refuses: { kind: 'full', words: '9000 tokens > 8192 maximum' } },
  broken: { about: 'has a fault of its own', refuses: { kind: 'fault', words: 'Something went wrong here.' } },
  overloaded: {
    about: 'begins an answer, says that it is overloaded, and answers when asked again',
    refuses: { kind: 'busy', words: 'Overloaded.', everySecond: true, inStream: true },
  },
  plainly: {
    about: 'knows no temperature',
    unsupported: 'temperature',
  },
  pauses: {
    about: 'pauses in the middle of every answer',
    says: (_thought, _made, _last, count) =>
      count % 2 === 1
        ? { text: 'I look', calls: [], end: 'paused', thought: 'Where to?' }
        : { text: ' it up.', calls: [], end: 'answer' },
  },
  garbled: { about: 'sends what is no answer', raw: 'data: {"half an ans\n\n' },
  page: { about: 'sends a page in place of an answer', raw: '<!doctype html><title>Gateway</title>' },
  cut: {
    about: 'breaks off in the middle',
    says: (thought) => ({ ...plain(thought), text: thought.text.slice(0, 20) || 'I will look', cut: true }),
  },
  short: {
    about: 'comes to the longest length',
    says: (thought) => ({ text: thought.text.slice(0, 20) || 'Let me see', calls: [], end: 'length' }),
  },
  declines: {
    about: 'declines to answer',
    says: () => ({ text: 'I cannot help with that.', calls: [], end: 'refusal' }),
  },
  mute: { about: 'says nothing and calls nothing', says: () => ({ text: '', calls: [], end: 'answer' }) },
  invents: {
    about: 'calls a tool that there is not',
    says: (thought, made) =>
      made < 2 ? { text: '', calls: [call('teleport_party', { to: 'larch' })], end: 'calls' } : plain(thought),
  },
  unreadable: {
    about: 'writes arguments that are no JSON',
    says: (thought, made) => ({
      ...plain(thought),
      ...(made < 1 && {
        calls: plain(thought).calls.map((one) => ({ ...one, written: '{"hut": larch', isReadable: false })),
      }),
    }),
  },
  mixes: {
    about: 'takes another of the tools first, with what belongs to the right one',
    says: (thought, made) => ({
      ...plain(thought),
      ...(made < 1 && { calls: plain(thought).calls.map((one) => ({ ...one, name: 'list_loads' })) }),
    }),
  },
  circles: {
    about: 'makes the same call over and over',
    says: (thought, _made, last) =>
      last ? { text: '', calls: [call(last.name, last.arguments)], end: 'calls' } : plain(thought),
  },
  boasts: {
    about: 'says that all is done, whatever came of it',
    says: (thought, made) =>
      thought.calls.length > 0 && made === 0 ? plain(thought) : { text: DONE, calls: [], end: 'answer' },
  },
  claims: { about: 'says that all is done, and calls nothing', says: () => ({ text: DONE, calls: [], end: 'answer' }) },
  thinks: {
    about: 'thinks first, and wants its thoughts back',
    says: (thought) => ({ ...plain(thought), thought: 'Which tool fits? The one that is named.' }),
  },
};
const DONE = 'Done: I have reserved everything you asked for, and it is confirmed.';

/** The fault that a model's name asks for. */
export const faultOf = (model: string): Fault | undefined => FAULTS[/-([a-z]+)$/.exec(model)?.[1] ?? ''];

/**
 * @param earlier calls in the conversation since the last message
 * @param count number of requests to this model, including this one
 */
export function saidOf(fault: Fault | undefined, thought: Thought, earlier: Thought['calls'], count: number): Said {
  return {
    thought: '',
    cut: false,
    ...plain(thought),
    ...fault?.says?.(thought, earlier.length, earlier.at(-1), count),
  };
}
