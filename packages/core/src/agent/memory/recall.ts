import type { JsonObject } from '../../json/json.js';
import { asJson } from '../../json/json.js';
import type { Turn } from '../../models/dialect.js';
import { milliseconds } from '../../text/duration.js';
import { attribute } from '../../trace/spans/attributes.js';
import { type Note, notesKey, readNotes } from '../built-in/notes.js';
import type { AgentConfig } from '../config.js';
import type { AgentContext } from '../context.js';
import { recallKept, saveKept } from '../toolbox/stored-values.js';
import { asKept, asTurns, partOf } from './memory.js';
import { fitTurns, newest, tokensOf } from './window.js';

type Memory = NonNullable<AgentConfig['memory']>;

/** What an agent has of earlier conversations. */
export interface Remembered {
  turns: Turn[];
  notes: Note[];
  /** What came before the turns, summed up. */
  abstract: string;
  /** Values that the builder had kept of results. */
  kept: JsonObject;
}
export const NOTHING: Remembered = { turns: [], notes: [], abstract: '', kept: {} };

/** Takes the lock on a memory and reads it, as a span of the run. The lock is held until it is released. */
export async function recall(key: string, config: Memory, context: AgentContext): Promise<Remembered> {
  const { signal, recorder, parentSpan } = context;
  const { ports } = context.run;
  const expires = config.expires === undefined ? {} : { expires: milliseconds(config.expires) };
  const kept = asTurns(await ports.memory.open(key, { signal, ...expires }));
  const span = recorder.span('memory', 'recall', parentSpan, { attributes: { [attribute.memoryKey]: key } });
  const { turns, left } = fitTurns(newest(kept, config.turns), config.tokens);
  const notes = config.notes ? readNotes((await ports.memory.look?.(notesKey(key), expires.expires)) ?? []) : [];
  const [first] = config.abstract ? ((await ports.memory.look?.(partOf(key, 'abstract'), expires.expires)) ?? []) : [];
  const abstract = typeof first === 'string' ? first : '';
  const values = await recallKept(key, context, expires.expires);
  if (left.length > 0) span.set({ [attribute.leftOut]: left });
  span.done({
    ...{ turns: asKept(turns), notes: asJson(notes) },
    ...(abstract && { abstract }),
    ...(Object.keys(values).length > 0 && { kept: values }),
  });
  return { turns, notes, abstract, kept: values };
}

/**
 * Stores a conversation as a span of the run: the newest turns, and optionally a summary of older ones.
 * @param sumUp asks the model for a summary
 * @returns what was omitted from the turns
 */
export async function keep(
  key: string,
  config: Memory,
  { turns, kept: values }: { turns: readonly Turn[]; kept: JsonObject },
  context: AgentContext,
  sumUp: (turns: readonly Turn[]) => Promise<string>,
): Promise<void> {
  const { recorder, parentSpan } = context;
  const { ports } = context.run;
  const span = recorder.span('memory', 'keep', parentSpan, { attributes: { [attribute.memoryKey]: key } });
  try {
    const { turns: kept, left } = fitTurns(newest(turns, config.turns), config.tokens);
    const fallen = turns.slice(0, Math.max(0, turns.length - newest(turns, config.turns).length));
    if (config.abstract && fallen.length > 0) {
      const abstract = await sumUp(fallen);
      if (abstract) await ports.memory.save(partOf(key, 'abstract'), [abstract]);
    }
    await saveKept(key, values, context);
    await ports.memory.save(key, asKept(kept.map(withoutPictures)));
    if (left.length > 0) span.set({ [attribute.leftOut]: left });
    span.done({
      exchanges: newest(kept, config.turns).filter(({ role }) => role === 'user').length,
      tokens: kept.reduce((sum, turn) => sum + tokensOf(turn), 0),
      ...(Object.keys(values).length > 0 && { kept: values }),
    });
  } catch (error) {
    span.fail(error);
    throw error;
  }
}

function withoutPictures(turn: Turn): Turn {
  if (turn.role !== 'tool' || !turn.pictures) return turn;
  const { pictures: _, ...rest } = turn;
  return rest;
}
