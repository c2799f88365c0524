/*
 * The layers from the top down: an import only points to the same line or further down. A new package, layer of core or
 * capability is one line here; a folder that stands nowhere here fails. `tests/core/layers.test.ts` compares the lists with
 * docs/architecture.md.
 */
export const packages = [
  { name: 'cli', may: ['contract', 'core', 'service', 'standins'] },
  { name: 'console', may: ['contract', 'core'] },
  { name: 'service', may: ['contract', 'core'] },
  { name: 'contract', may: ['core'] },
  { name: 'core', may: [] },
  { name: 'standins', may: [] },
];
export const coreLayers = [
  'openapi',
  'attach',
  'watch',
  'advice',
  'diagnosis',
  'engine',
  'script',
  'flow',
  'steps',
  'agent',
  'models',
  'tools',
  'expression',
  'ports',
  'trace',
  'errors',
  'catalogue',
  'text',
  'json',
  'async',
];
/** What the service can do. None reads the tables of another one. */
export const capabilities = [
  'approvals',
  'backups',
  'conversations',
  'credentials',
  'docs',
  'documents',
  'endpoints',
  'entries',
  'filters',
  'flows',
  'keys',
  'mail',
  'mailbox',
  'metrics',
  'models',
  'objects',
  'people',
  'problems',
  'record',
  'runs',
  'scripts',
  'search',
  'servers',
  'status',
  'tables',
  'trials',
  'values',
  'views',
  'workshop',
  'workspace',
];
/** What capabilities are built on and put together by. */
const serviceBase = ['main', 'platform', 'policy'];

/** Modules with which the service has an effect outside, and the one place that may use each: there a permit is required. */
const effects = [
  {
    name: 'processes',
    modules: ['cross-spawn', 'node:child_process', 'child_process'],
    only: 'servers/programs/process\\.ts',
  },
  {
    name: 'connections',
    modules: ['undici', 'node:https', 'node:tls', 'node:dgram', 'node:http2'],
    only: 'platform/reach/outside\\.ts',
  },
  { name: 'mail', modules: ['nodemailer'], only: 'mail/sender\\.ts' },
];

const names = packages.map(({ name }) => name);
const forbidden = [
  {
    name: 'no-circles',
    severity: 'error',
    from: { path: '^packages/[^/]+/src' },
    to: { circular: true },
  },
  {
    name: 'nothing-unresolved',
    severity: 'error',
    from: { path: '^packages/[^/]+/src', pathNot: '\\.svelte' },
    to: { couldNotResolve: true, pathNot: '^virtual:' },
  },
  ...packages.map(({ name, may }) => ({
    name: `${name}-looks-down`,
    severity: 'error',
    from: { path: `^packages/${name}/src` },
    to: { path: `^packages/(${names.filter((other) => other !== name && !may.includes(other)).join('|')})/` },
  })),
  {
    name: 'service-and-standins-only-where-they-are-started',
    severity: 'error',
    from: { path: '^packages/cli/src', pathNot: '^packages/cli/src/(serve|demo)/' },
    to: { path: '^packages/(service|standins)/' },
  },
  {
    name: 'core-knows-no-platform',
    severity: 'error',
    from: { path: '^packages/core/src' },
    to: { dependencyTypes: ['core'] },
  },
  ...coreLayers.slice(1).map((layer, index) => ({
    name: `core-${layer}-looks-down`,
    severity: 'error',
    from: { path: `^packages/core/src/${layer}/` },
    to: { path: `^packages/core/src/(${coreLayers.slice(0, index + 1).join('|')})/` },
  })),
  ...[
    { folder: 'core', known: coreLayers },
    { folder: 'service', known: [...capabilities, ...serviceBase] },
  ].map(({ folder, known }) => ({
    name: `${folder}-has-no-unknown-folder`,
    severity: 'error',
    from: { path: `^packages/${folder}/src/(?!(${known.join('|')})/)[^/]+/` },
    to: {},
  })),
  {
    name: 'entries-of-core-are-for-others',
    severity: 'error',
    from: { path: '^packages/core/src/.+/' },
    to: { path: '^packages/core/src/(index|browser)\\.ts$' },
  },
  {
    name: 'capabilities-ask-each-others-stores',
    severity: 'error',
    from: { path: `^packages/service/src/(${capabilities.join('|')})/` },
    to: {
      path: `^packages/service/src/(${capabilities.join('|')})/[a-z-]*tables\\.ts`,
      pathNot: '^packages/service/src/$1/',
    },
  },
  ...effects.map(({ name, modules, only }) => ({
    name: `${name}-only-where-a-permit-is-required`,
    severity: 'error',
    from: { path: '^packages/service/src', pathNot: `^packages/service/src/${only}` },
    to: {
      path: `^(${modules.join('|').replaceAll('node:', '(node:)?')})$|node_modules/(${modules.join('|')})/`,
      dependencyTypesNot: ['type-only'],
    },
  })),
  {
    name: 'policy-knows-no-capability',
    severity: 'error',
    from: { path: '^packages/service/src/policy/' },
    to: { path: `^packages/service/src/(${capabilities.join('|')})/` },
  },
  {
    name: 'platform-knows-no-capability',
    severity: 'error',
    from: { path: '^packages/service/src/platform/' },
    to: { path: `^packages/service/src/(${capabilities.join('|')})/` },
  },
];

export default {
  forbidden,
  options: {
    doNotFollow: { path: ['node_modules', 'dist'] },
    exclude: { path: '/dist/' },
    tsPreCompilationDeps: true,
    extraExtensionsToScan: ['.svelte'],
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'default'] },
  },
};
