/* What is mutated, and by which tests it has to be noticed. Paths are below the repository. */
export const SCOPES = {
  core: {
    code: ['packages/core/dist/'],
    tests: [
      'core/',
      ...[
        ...['agent-replay', 'approvals', 'building', 'delegation', 'endpoints', 'entries', 'exchanges', 'finding-runs'],
        ...['fixes', 'good-documents', 'journal-store', 'live', 'memory', 'model-review', 'models', 'obedient-model'],
        ...['objects', 'problems', 'progress', 'publishing', 'receipts', 'runs', 'schemas', 'servers', 'serving'],
        ...['tables', 'texts', 'values', 'warden-desk', 'watch', 'workbench', 'workshop'],
      ].map((name) => `service/${name}.test.js`),
    ],
  },
  security: {
    code: [
      ...['keys', 'people', 'credentials', 'policy'].map((folder) => `packages/service/dist/${folder}/`),
      'packages/service/dist/platform/reach/',
      'packages/service/dist/platform/gate.js',
      'packages/service/dist/endpoints/mcp/admission.js',
    ],
    tests: [
      ...[
        'keys',
        'people',
        'permits',
        'privilege',
        'privilege-paths',
        'approval-scope',
        'reach',
        'canary',
        'own-credential',
      ],
      ...['behind-a-proxy', 'boundaries', 'connections', 'endpoints', 'attacks', 'pasted-secrets'],
    ].map((name) => `service/${name}.test.js`),
  },
};
