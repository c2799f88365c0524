/** First segments of the addresses of console pages. The service answers any other with 404. */
export const CONSOLE_PAGES: readonly string[] = [
  ...['', 'flows', 'chat', 'approvals', 'memory', 'endpoints', 'servers', 'models', 'credentials', 'keys', 'tables'],
  ...['mailbox', 'people', 'workspace', 'docs', 'metrics', 'figures', 'problems', 'runs', 'saved'],
];
