import { RESOURCES } from '@pindro/contract';

/** A command, or why there is none. */
type Verb = string | { none: string };

/** What can be done with everything that people make: the commands, by noun. */
export interface Noun {
  make: Verb;
  look: Verb;
  list: Verb;
  change: Verb;
  rename: Verb;
  copy: Verb;
  remove: Verb;
}

const none = (why: string) => ({ none: why });
const verbs = (noun: string, make: string, more: Partial<Noun> = {}): Noun => ({
  make: `${noun} ${make}`,
  look: `${noun} show`,
  list: `${noun} list`,
  change: `${noun} update`,
  rename: `${noun} rename`,
  copy: `${noun} copy`,
  remove: `${noun} remove`,
  ...more,
});

/** Where the commands of a noun differ from those that its descriptor gives it. */
const OTHERWISE: Record<string, Partial<Noun>> = {
  key: { rename: 'key update' },
  row: {
    rename: none('a row has no name'),
    copy: none('a row is added with the values of another one'),
  },
  person: {
    change: 'person role',
    copy: none('a person cannot be copied'),
  },
  document: { copy: none('the same document can be imported again under another name') },
  label: {
    change: none('a label is its name'),
    copy: none('a label is its name'),
  },
};

export const NOUNS: Record<string, Noun> = {
  ...Object.fromEntries(
    RESOURCES.flatMap(({ name, create, fields }) =>
      create
        ? [[name, verbs(name, create, { ...(fields && { change: `${name} ${create}` }), ...OTHERWISE[name] })]]
        : [],
    ),
  ),
  tool: {
    make: 'endpoint add-tool',
    look: 'endpoint show',
    list: 'endpoint show',
    change: 'endpoint describe-tool',
    rename: 'endpoint describe-tool',
    copy: none('an endpoint can have the same flow several times'),
    remove: 'endpoint remove-tool',
  },
};

/** Commands that are about work, the whole, or what happened, and not about a thing that people make. */
export const WORK: readonly string[] = [
  ...['serve', 'demo', 'status', 'search', 'chat', 'bridge', 'undo', 'sign-in', 'backup', 'restore'],
  ...['run', 'problem', 'metrics', 'approval', 'memory', 'workshop', 'workspace'],
];
