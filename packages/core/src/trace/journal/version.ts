/** Version of the format of stored heads, journal entries and spans. Higher versions are not read. */
export const RECORD_VERSION = 1;
