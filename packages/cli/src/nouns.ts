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

export const NOUNS: Record<string, Noun> = {
  flow: verbs('flow', 'create'),
  endpoint: verbs('endpoint', 'create'),
  tool: {
    make: 'endpoint add-tool',
    look: 'endpoint show',
    list: 'endpoint show',
    change: 'endpoint describe-tool',
    rename: 'endpoint describe-tool',
    copy: none('an endpoint can have the same flow several times'),
    remove: 'endpoint remove-tool',
  },
  server: verbs('server', 'attach'),
  credential: verbs('credential', 'add'),
  model: verbs('model', 'add'),
  key: verbs('key', 'issue', { rename: 'key update' }),
  table: verbs('table', 'create'),
  row: verbs('row', 'add', {
    rename: none('a row has no name'),
    copy: none('a row is added with the values of another one'),
  }),
  entry: verbs('entry', 'hook'),
  person: verbs('person', 'add', {
    change: 'person role',
    copy: none('a person cannot be copied'),
  }),
  document: verbs('document', 'import', { copy: none('the same document can be imported again under another name') }),
  sample: verbs('sample', 'save'),
  label: verbs('label', 'add', {
    change: none('a label is its name'),
    copy: none('a label is its name'),
  }),
};

/** Commands that are about work, the whole, or what happened, and not about a thing that people make. */
export const WORK: readonly string[] = [
  ...['serve', 'demo', 'status', 'search', 'chat', 'bridge', 'undo', 'sign-in', 'backup', 'restore'],
  ...['run', 'problem', 'metrics', 'approval', 'memory', 'workshop', 'workspace'],
];
