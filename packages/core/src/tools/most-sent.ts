/**
 * Maximum length of a result sent to a client, in characters. Longer results help no model and take memory along the
 * way.
 */
export const MOST_SENT = 8 * 1024 * 1024;
