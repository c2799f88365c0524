import { toolName } from '../../../tools/names.js';
import { eachTool, type ReviewRule } from '../suggestion.js';
import { isUninformative, READS, WRITES, wordsOf } from '../words.js';

/** A name that its title would make better. */
const fromTitle = (title: string | undefined, taken: readonly { name: string }[]): string | null => {
  const name = title ? toolName(wordsOf(title).slice(0, 5).join('_')) : '';
  return name && !isUninformative(name) && !taken.some((tool) => tool.name === name) ? name : null;
};

export const vagueName: ReviewRule = {
  code: 'name_vague',
  about: 'A name that could belong to any tool, such as `run` or `my_flow_2`.',
  look: eachTool(({ name, title }, all) => {
    const better = fromTitle(title, all);
    return [
      isUninformative(name) && {
        weight: 'hurts',
        argument: null,
        title: `The name "${name}" does not say what the tool does`,
        why: 'The name is what a model considers first when it chooses a tool.',
        instead: better ? `Rename the tool to "${better}".` : 'Use a verb and an object, such as reserve_bunks.',
        fix: better ? { rename: better } : null,
      },
    ];
  }),
};

export const misleadingName: ReviewRule = {
  code: 'name_misleads',
  about: 'A name that suggests a change where the tool is read-only, or the reverse.',
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
          ? `"${name}" suggests a change, but the tool is read-only`
          : `"${name}" suggests that the tool is read-only, but it changes data`,
        why: readOnly
          ? 'A model tells its user that work is done when nothing has happened, or avoids a harmless lookup.'
          : 'A model calls it freely, and clients may skip the confirmation.',
        instead: free ? `Rename the tool to "${better}".` : 'Begin the name with the verb for what it does.',
        fix: free ? { rename: better } : null,
      },
    ];
  }),
};
