import type { RunDetail } from '@pindro/contract/light';
import { attribute, isObject } from '@pindro/core/browser';

export interface MadeThing {
  label: string;
  to: string;
}

/** What a run left behind, each with where to see it. */
export function madeThings(spans: RunDetail['spans']): MadeThing[] {
  return spans.flatMap((span): MadeThing[] => {
    if (span.status !== 'ok') return [];
    const { input, output, attributes } = span;
    if (
      span.work === 'step' &&
      attributes[attribute.kind] === 'table' &&
      isObject(input) &&
      input.do === 'add' &&
      isObject(output) &&
      isObject(output.row) &&
      output.refused === false
    ) {
      return [{ label: `row ${output.row.id} in ${input.table}`, to: `/tables/${input.table}?row=${output.row.id}` }];
    }
    if (span.work === 'tool' && attributes[attribute.server]) return madeByTool(span);
    return [];
  });
}

/** What a tool that does more than read has made stands at its server. */
function madeByTool(span: RunDetail['spans'][number]): MadeThing[] {
  const tool = String(span.attributes[attribute.tool]);
  if (/^(?:list|get|show|find|search|read|check)_|_status$/.test(tool)) return [];
  return [
    {
      label: `${tool.replaceAll('_', ' ')} at ${span.attributes[attribute.server]}`,
      to: `/servers/${span.attributes[attribute.server]}`,
    },
  ];
}
