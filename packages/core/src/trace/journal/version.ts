/** Of the form in which heads, journal entries and spans are kept. One that is read with a higher one is not understood. */
export const RECORD_VERSION = 1;
