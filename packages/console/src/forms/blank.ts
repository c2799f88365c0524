import type { Json } from '@pindro/core/browser';

/** What a row or an entry holds whose field was emptied: it is still there, and holds an empty text. Nothing is a value. */
export const kept = (value: Json | undefined): Json => (value === undefined ? '' : value);
