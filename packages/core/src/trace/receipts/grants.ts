/** Scope of an approval: one call, further calls of the conversation, or further calls of the caller. */
export const GRANTS = ['call', 'conversation', 'caller'] as const;
export type Grant = (typeof GRANTS)[number];
export const GRANT_WORDS: Record<Grant, string> = {
  call: 'this call only',
  conversation: 'this conversation',
  caller: 'every conversation of this caller',
};
