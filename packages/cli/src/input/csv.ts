import type { TableSummary } from '@pindro/contract';
import { cellText, type Json, readCell } from '@pindro/core/browser';
import { usage } from '../usage.js';

type Column = TableSummary['columns'][number];

/** A cell of a CSV file as its column has it; an empty one is no value. @throws with the place where it does not fit */
export function fromCell(text: string, { name, type }: Column, where: string): Json {
  const read = readCell(text, type);
  if ('value' in read) return read.value;
  throw usage(
    `${where}: "${text.slice(0, 60)}" in column "${name}" is not ${read.wants}`,
    'No row was added; mend the file and import it again.',
  );
}

/** A value as a cell, so that {@link fromCell} gives it back. */
export const toCell = cellText;
