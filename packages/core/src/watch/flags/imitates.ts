import { type FlagFacts, type FlagRule, quoteOf } from '../flag.js';

/** Letters and signs that are taken for one another. */
const ALIKE: readonly [RegExp, string][] = [
  [/[_\-.\s]/g, ''],
  [/[1il|]/g, 'l'],
  [/[0o]/g, 'o'],
  [/rn/g, 'm'],
  [/vv/g, 'w'],
  [/5/g, 's'],
];
const skeleton = (name: string) =>
  ALIKE.reduce((text, [from, to]) => text.replaceAll(from, to), name.normalize('NFKC').toLowerCase());
/** Shorter names, and such of one word, are words that anybody uses. */
const isTelling = (name: string) => name.length >= 6 && /[_-]|[a-z][A-Z]/.test(name);

type Other = FlagFacts['others'][number];
interface Known {
  byName: Map<string, Other>;
  bySkeleton: Map<string, Other>;
}
/** Lists of others are long, and asked for once for each tool. */
const known = new WeakMap<readonly Other[], Known>();
function knownOf(others: readonly Other[]): Known {
  let found = known.get(others);
  if (!found) {
    found = {
      byName: new Map(others.map((one) => [one.tool, one])),
      bySkeleton: new Map(others.map((one) => [skeleton(one.tool), one])),
    };
    known.set(others, found);
  }
  return found;
}

export const imitates: FlagRule = {
  rule: 'imitates',
  about: "A tool that passes itself off as another server's, or speaks of one.",
  holds: true,
  look: ({ name, description = '' }, { others }) => {
    const { byName, bySkeleton } = knownOf(others);
    const double = byName.has(name) ? undefined : bySkeleton.get(skeleton(name));
    const word = (description.match(/[\w-]+/g) ?? []).find((one) => one !== name && isTelling(one) && byName.has(one));
    const spoken = word === undefined ? undefined : byName.get(word);
    const asAnother = double && `Its name is easily taken for ${double.tool} of tool server "${double.server}"`;
    const ofAnother = spoken && `Its words speak of ${spoken.tool}, a tool of "${spoken.server}"`;
    return [
      ...(asAnother ? [{ at: 'name', says: asAnother, quote: name }] : []),
      ...(ofAnother
        ? [
            {
              at: 'description',
              says: ofAnother,
              quote: quoteOf(description, description.indexOf(spoken.tool), spoken.tool.length),
            },
          ]
        : []),
    ];
  },
};
