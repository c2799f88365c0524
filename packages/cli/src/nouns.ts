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
  change: `${noun} change`,
  rename: `${noun} rename`,
  copy: `${noun} copy`,
  remove: `${noun} remove`,
  ...more,
});

export const NOUNS: Record<string, Noun> = {
  flow: verbs('flow', 'make'),
  endpoint: verbs('endpoint', 'make'),
  tool: {
    make: 'endpoint put',
    look: 'endpoint show',
    list: 'endpoint show',
    change: 'endpoint word',
    rename: 'endpoint word',
    copy: none('one flow stands on an endpoint as often as it is put there'),
    remove: 'endpoint take',
  },
  server: verbs('server', 'attach'),
  credential: verbs('credential', 'add'),
  model: verbs('model', 'add'),
  key: verbs('key', 'issue', { rename: 'key change' }),
  table: verbs('table', 'make'),
  row: verbs('row', 'add', {
    rename: none('a row has no name'),
    copy: none('a row is added with the values of another one'),
  }),
  entry: verbs('entry', 'hook'),
  person: verbs('person', 'add', {
    change: 'person role',
    copy: none('a person is one person'),
  }),
  document: verbs('document', 'take', { copy: none('the same document is taken again under another name') }),
  sample: verbs('sample', 'keep'),
  label: verbs('label', 'add', {
    change: none('a label is its name'),
    copy: none('a label is its name'),
  }),
};

/** Commands that are about work, the whole, or what happened, and not about a thing that people make. */
export const WORK: readonly string[] = [
  ...['serve', 'demo', 'status', 'search', 'chat', 'bridge', 'undo', 'sign-in', 'backup', 'restore'],
  ...['run', 'problem', 'figures', 'approval', 'memory', 'workshop', 'workspace'],
];
