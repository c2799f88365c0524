/**
 * A text that may hold words of others, fit for a terminal: what would move the cursor, clear the screen or write into the
 * clipboard is shown as a mark. Colours are ours, and harmless.
 */
export const safe = (text: string): string =>
  text.replace(/\x1b\[[0-9;]*m|\r\n|[\x00-\x08\x0b-\x1f\x7f-\x9f]/g, (found) => (found.length > 1 ? found : '\ufffd'));
