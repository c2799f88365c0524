import type { Diagnostic } from '@codemirror/lint';
import type { Text } from '@codemirror/state';
import type { Mistake } from '../forms/place.js';
import { lineOf } from './path.js';

/** Mistakes as marks in the text: at their line and column, else at the line of what they are about. */
export function marksOf(text: Text, mistakes: readonly Mistake[]): Diagnostic[] {
  return mistakes.map((mistake) => {
    const line = text.line(Math.min(text.lines, Math.max(1, mistake.line ?? lineOf(text, mistake.at) ?? 1)));
    const from = Math.min(line.to, line.from + Math.max(0, (mistake.column ?? 1) - 1));
    const begin = mistake.column ? from : line.from + (/^\s*(?:- )?/.exec(line.text)?.[0].length ?? 0);
    return {
      from: Math.min(begin, line.to),
      to: Math.max(Math.min(begin, line.to), line.to),
      severity: 'error',
      message: `${mistake.message}${mistake.hint ? `. ${mistake.hint}` : ''}`,
    };
  });
}
