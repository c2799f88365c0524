import { entrySchema, type JournalEntry, PindroError } from '@pindro/core';

/** Parses a stored journal entry for resuming. @throws record_unreadable */
export function readEntry(entry: JournalEntry): JournalEntry {
  const parsed = entrySchema.safeParse(entry);
  if (parsed.success) return parsed.data as JournalEntry;
  const where = parsed.error.issues[0]!.path.join('/') || 'type';
  throw new PindroError('record_unreadable', {
    run: entry.run,
    why: `entry ${entry.sequence} has an invalid "${where}"`,
  });
}
