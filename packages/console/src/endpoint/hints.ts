/** What MCP's annotations of a tool mean, in words. */
export const HINTS = [
  { key: 'readOnlyHint', label: 'Only reads', about: 'Changes nothing, so that a client may let it pass unasked' },
  { key: 'destructiveHint', label: 'May destroy', about: 'What was there may be gone or another afterwards' },
  { key: 'idempotentHint', label: 'Can be repeated', about: 'Doing it twice makes no difference' },
  { key: 'openWorldHint', label: 'Reaches outside', about: 'Touches more than this workspace' },
] as const;
