import { PindroError } from '../../errors/errors.js';
import { asJson, isObject, type Json } from '../../json/json.js';
import type { MemoryPort } from '../../ports/ports.js';
import { partOf } from '../memory/memory.js';
import { type BuiltIn, gives } from './built-in.js';

/** Number and length of notes; the oldest are deleted first. */
const MOST = 200;
const LONGEST = 2000;

export interface Note {
  about: string;
  text: string;
  at: string;
}

/** Key of the notes of a memory. */
export const notesKey = (memory: string): string => partOf(memory, 'notes');

export const readNotes = (kept: Json[]): Note[] =>
  kept.filter(isObject).map(({ about, text, at }) => ({ about: String(about), text: String(text), at: String(at) }));

/** What an agent noted, for its instructions. */
export const notesInWords = (notes: readonly Note[]): string =>
  notes.length === 0
    ? ''
    : `Your notes from earlier:\n${notes.map(({ about, text }) => `- ${about}: ${text}`).join('\n')}`;

/** One change of the notes at a time. */
async function changing(
  ports: { memory: MemoryPort },
  key: string,
  signal: AbortSignal,
  change: (notes: Note[]) => Note[],
) {
  const notes = readNotes(await ports.memory.open(key, { signal }));
  try {
    const next = change(notes).slice(-MOST);
    await ports.memory.save(key, asJson(next));
    return next;
  } finally {
    await ports.memory.release(key);
  }
}

const about = { type: 'string', minLength: 1, maxLength: 100, description: 'Topic, in a word or two' };

/** Notes that an agent makes, corrects and looks up. @param key where they are kept */
export const notes = (key: string): BuiltIn[] => [
  {
    name: 'note_down',
    description: 'Stores a fact for later conversations. A note with the same topic replaces the earlier one.',
    schema: {
      type: 'object',
      required: ['about', 'text'],
      properties: { about, text: { type: 'string', minLength: 1, maxLength: LONGEST, description: 'The fact' } },
    },
    reads: false,
    call: async ({ about: what, text }, { run: { ports }, signal }) => {
      const note = { about: String(what), text: String(text), at: new Date(await ports.clock.now()).toISOString() };
      await changing(ports, key, signal, (all) => [...all.filter((one) => !isAbout(one, note.about)), note]);
      return gives({ noted: note.about });
    },
  },
  {
    name: 'look_up_notes',
    description: 'Searches earlier notes by words; without words, returns all of them.',
    schema: { type: 'object', properties: { words: { type: 'string', description: 'Words in the note' } } },
    reads: true,
    call: async ({ words }, { run: { ports } }) => {
      const wanted = String(words ?? '')
        .toLowerCase()
        .split(/\s+/)
        .filter(Boolean);
      const all = readNotes((await ports.memory.look?.(key)) ?? []);
      const found = all.filter((note) =>
        wanted.every((word) => `${note.about} ${note.text}`.toLowerCase().includes(word)),
      );
      return gives({ notes: asJson(found) });
    },
  },
  {
    name: 'forget_note',
    description: 'Deletes a note that is no longer true.',
    schema: { type: 'object', required: ['about'], properties: { about } },
    reads: false,
    call: async ({ about: what }, { run: { ports }, signal }) => {
      let had = false;
      await changing(ports, key, signal, (all) => {
        const left = all.filter((one) => !isAbout(one, String(what)));
        had = left.length < all.length;
        return left;
      });
      if (!had)
        throw new PindroError('arguments_refused', {
          ...{ tool: 'forget_note', why: `there is no note about "${what}"`, fix: 'Look up the notes first.' },
        });
      return gives({ forgotten: String(what) });
    },
  },
];

const isAbout = (note: Note, what: string) => note.about.toLowerCase() === what.toLowerCase();
