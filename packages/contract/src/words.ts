/** The name of the built-in endpoint for coding assistants. */
export const WORKSHOP = 'workshop';
/** Placeholder for the key in client settings. */
export const KEY_GAP = 'PASTE-YOUR-KEY-HERE';
