/** Descriptions of MCP tool annotations. */
export const HINTS = [
  { key: 'readOnlyHint', label: 'Read-only', about: 'Changes nothing; clients may call it without confirmation' },
  { key: 'destructiveHint', label: 'Destructive', about: 'May delete or overwrite data' },
  { key: 'idempotentHint', label: 'Idempotent', about: 'Repeating a call has no further effect' },
  { key: 'openWorldHint', label: 'Open world', about: 'Reaches beyond this workspace' },
] as const;
