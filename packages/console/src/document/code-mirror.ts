import {
  autocompletion,
  type CompletionContext,
  type CompletionResult,
  completionKeymap,
} from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap, indentWithTab } from '@codemirror/commands';
import { yaml } from '@codemirror/lang-yaml';
import {
  bracketMatching,
  foldGutter,
  foldKeymap,
  HighlightStyle,
  indentUnit,
  syntaxHighlighting,
} from '@codemirror/language';
import { type Diagnostic, linter, lintGutter } from '@codemirror/lint';
import type { Extension, Text } from '@codemirror/state';
import { type Command, drawSelection, EditorView, highlightActiveLine, keymap, lineNumbers } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import type { JsonSchema } from '@pindro/core/browser';
import { lineOf, pathAt } from './path.js';
import { offersAt, valuesAt } from './schema.js';

const colors = HighlightStyle.define([
  { tag: [tags.propertyName, tags.definition(tags.propertyName)], color: 'var(--spruce)', fontWeight: '500' },
  { tag: tags.comment, color: 'var(--soft)', fontStyle: 'italic' },
  { tag: [tags.string, tags.content], color: 'var(--ink)' },
  { tag: [tags.number, tags.bool, tags.null], color: 'var(--glacier)' },
  { tag: [tags.punctuation, tags.separator, tags.meta], color: 'var(--soft)' },
]);
const look = EditorView.theme({
  '&': { height: '100%', fontSize: '0.87rem', backgroundColor: 'var(--card)', color: 'var(--ink)' },
  '.cm-scroller': { fontFamily: 'var(--font-mono)', lineHeight: '1.55' },
  '.cm-gutters': { backgroundColor: 'var(--sunk)', color: 'var(--soft)', border: 'none' },
  '.cm-activeLine': { backgroundColor: 'color-mix(in srgb, var(--spruce-wash) 45%, transparent)' },
  '.cm-cursor': { borderLeftColor: 'var(--ink)' },
  '&.cm-focused': { outline: '2px solid var(--glacier)', outlineOffset: '-2px' },
  '.cm-selectionBackground, &.cm-focused .cm-selectionBackground': {
    backgroundColor: 'var(--glacier-wash) !important',
  },
  '.cm-tooltip': { backgroundColor: 'var(--card)', border: '1px solid var(--line)', color: 'var(--ink)' },
  '.cm-tooltip-autocomplete ul li[aria-selected]': { backgroundColor: 'var(--spruce-wash)', color: 'var(--ink)' },
  '.cm-completionDetail': { color: 'var(--soft)', fontStyle: 'normal' },
  '.cm-diagnostic-error': { borderLeftColor: 'var(--rowan)' },
});

/** After a name that holds something, a new line stands deeper. */
const deeper: Command = ({ state, dispatch }) => {
  const { from, to } = state.selection.main;
  const line = state.doc.lineAt(from);
  const opens = /^(\s*)(- )?[\w"'-]+:\s*(?:#.*)?$/.exec(line.text);
  if (!opens || from !== line.to) return false;
  const insert = `\n${opens[1]}${opens[2] ? '  ' : ''}  `;
  dispatch(
    state.update({ changes: { from, to, insert }, selection: { anchor: from + insert.length }, userEvent: 'input' }),
  );
  return true;
};

interface Given {
  schema: JsonSchema;
  mistakes(): Diagnostic[];
}

/** What the editor of a document can do: YAML with colours, completion and marks from the schema and the check. */
export function extensions({ schema, mistakes }: Given): Extension[] {
  return [
    lineNumbers(),
    foldGutter(),
    lintGutter(),
    history(),
    drawSelection(),
    bracketMatching(),
    highlightActiveLine(),
    indentUnit.of('  '),
    yaml(),
    syntaxHighlighting(colors),
    look,
    linter(mistakes, {
      delay: 0,
      needsRefresh: (update) => update.transactions.some((one) => one.isUserEvent('reload')),
    }),
    autocompletion({ override: [(context) => complete(context, schema)] }),
    // Escape, then Tab leaves the field for whoever has only a keyboard.
    keymap.of([
      ...completionKeymap,
      { key: 'Enter', run: deeper },
      ...defaultKeymap,
      ...historyKeymap,
      ...foldKeymap,
      indentWithTab,
    ]),
    EditorView.contentAttributes.of({ 'aria-label': 'Flow document', tabindex: '0' }),
    EditorView.lineWrapping,
  ];
}

function complete(context: CompletionContext, schema: JsonSchema): CompletionResult | null {
  const { doc } = context.state;
  const line = doc.lineAt(context.pos);
  const before = line.text.slice(0, context.pos - line.from);
  const { path } = pathAt(doc, line.number);
  const kindOf = (step: string[]) => kindAt(doc, step);
  const value = /^\s*(?:- )?([\w-]+):\s+(\S*)$/.exec(before);
  if (value) {
    const offers = valuesAt(schema, [...path, value[1]!], kindOf);
    const options = offers.map(({ label, detail }) => ({ label, detail: detail.slice(0, 70) }));
    return options.length > 0 ? { from: context.pos - value[2]!.length, options } : null;
  }
  const key = /^\s*(?:- )?([\w-]*)$/.exec(before);
  if (!key || (key[1] === '' && !context.explicit)) return null;
  const inItem = /^\s*- /.test(before) ? [...path, '-'] : path;
  const options = offersAt(schema, inItem, kindOf).map(({ label, detail }) => ({
    ...{ label, detail: detail.slice(0, 70) },
    apply: `${label}: `,
  }));
  return options.length > 0 ? { from: context.pos - key[1]!.length, options } : null;
}

/** The kind of the step at a path, as its line says. */
function kindAt(doc: Text, step: string[]): string {
  const number = lineOf(doc, ['', ...step, 'kind'].join('/'));
  return number === null ? '' : (/kind:\s*([\w-]+)/.exec(doc.line(number).text)?.[1] ?? '');
}
