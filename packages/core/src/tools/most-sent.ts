/**
 * A client is sent no more than this of a result, in characters: a longer one helps no model, and would be held in
 * memory by everybody on its way.
 */
export const MOST_SENT = 8 * 1024 * 1024;
