/** The name of the built-in endpoint for coding assistants. */
export const WORKSHOP = 'workshop';
/** Stands in client settings where the key goes while there is none to show. */
export const KEY_GAP = 'PASTE-YOUR-KEY-HERE';
