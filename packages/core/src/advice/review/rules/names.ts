import { toolName } from '../../../tools/names.js';
import { eachTool, type ReviewRule } from '../remark.js';
import { READS, tellsNothing, WRITES, wordsOf } from '../words.js';

/** A name that its title would make better. */
const fromTitle = (title: string | undefined, taken: readonly { name: string }[]): string | null => {
  const name = title ? toolName(wordsOf(title).slice(0, 5).join('_')) : '';
  return name && !tellsNothing(name) && !taken.some((tool) => tool.name === name) ? name : null;
};

export const vagueName: ReviewRule = {
  code: 'name_vague',
  about: 'A name that could stand on any tool, such as `run` or `my_flow_2`.',
  look: eachTool(({ name, title }, all) => {
    const better = fromTitle(title, all);
    return [
      tellsNothing(name) && {
        weight: 'hurts',
        argument: null,
        title: `The name "${name}" does not say what the tool does`,
        why: 'The name is the first thing a model weighs when it chooses among tools.',
        instead: better ? `Call it "${better}".` : 'Name it by a verb and its object, such as reserve_bunks.',
        fix: better ? { rename: better } : null,
      },
    ];
  }),
};

export const misleadingName: ReviewRule = {
  code: 'name_misleads',
  about: 'A name that says it changes something where the tool only reads, or the other way round.',
  look: eachTool(({ name, readOnly }, all) => {
    const [verb = '', ...rest] = name.split('_');
    const says = WRITES.has(verb) ? 'writes' : READS.has(verb) ? 'reads' : null;
    if (says === null || readOnly === null || (says === 'reads') === readOnly) return [];
    const better = [readOnly ? 'get' : 'change', ...rest].join('_');
    const free = rest.length > 0 && !all.some((tool) => tool.name === better);
    return [
      {
        weight: 'hurts',
        argument: null,
        title: readOnly
          ? `"${name}" sounds as if it changed something, but it only reads`
          : `"${name}" sounds as if it only read, but it changes something`,
        why: readOnly
          ? 'A model tells its user that the work is done when nothing has happened, or shies away from a harmless look.'
          : 'A model calls it freely, and clients may let it pass without asking anybody.',
        instead: free ? `Call it "${better}".` : 'Begin the name with the verb for what it does.',
        fix: free ? { rename: better } : null,
      },
    ];
  }),
};
