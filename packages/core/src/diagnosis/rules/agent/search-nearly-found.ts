import { isObject, type JsonObject } from '../../../json/json.js';
import { attribute } from '../../../trace/spans/attributes.js';
import type { Span } from '../../../trace/spans/span.js';
import type { Need } from '../../facts.js';
import type { IndexedTrace } from '../../indexed.js';
import { type DiagnosisRule, placeInStep, quoted } from '../../rule.js';

/** Searches that found nothing, with what was searched for. */
function empty(trace: IndexedTrace): { span: Span; table: string; where: JsonObject }[] {
  return trace.of('step').flatMap((span) => {
    const { input, output } = span;
    if (span.attributes[attribute.kind] !== 'table' || !isObject(input) || !isObject(output)) return [];
    if (!['find', 'count', 'change', 'remove'].includes(String(input.do)) || output.count !== 0) return [];
    const where = isObject(input.where) ? input.where : {};
    return Object.keys(where).length > 0 ? [{ span, table: String(input.table), where }] : [];
  });
}

export const emptySearch: DiagnosisRule = {
  code: 'search_nearly_found',
  about: 'A search found nothing only because of case, spaces, or a number stored as text.',
  todo: 'Search for the stored value, or normalize the value first (lower(), trim()). "contains" ignores case.',
  needs: (trace) => empty(trace).map(({ table, where }): Need => ({ of: 'near', table, where })),
  look: (trace, facts) =>
    empty(trace).flatMap(({ span, table, where }) => {
      const near = facts.get({ of: 'near', table, where });
      const [first] = near?.rows ?? [];
      if (!first) return [];
      return [
        {
          span: span.spanId,
          title: `"${span.name}" found nothing in ${table} for ${first.column} = ${quoted(first.searched)}; the table has ${quoted(first.has)}`,
          why: 'The searched value differs from the stored one only in case, spaces or type.',
          fix: `Search for the stored value, or normalize both. "contains" ignores case.`,
          place: placeInStep(span, trace, `/with/where/${first.column}`),
          about: [span.name, table, first.column],
          severity: trace.runOf(span).state === 'done' ? ('doubt' as const) : ('warning' as const),
        },
      ];
    }),
};
