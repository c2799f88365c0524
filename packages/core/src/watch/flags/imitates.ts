import { argumentsOf, type FlagFacts, type FlagRule, quoteOf, textsOf } from '../flag.js';

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
  about: "A tool that imitates another server's tool, or mentions one.",
  holds: true,
  look: (tool, { others }) => {
    const { name } = tool;
    const { byName, bySkeleton } = knownOf(others);
    const double = byName.has(name) ? undefined : bySkeleton.get(skeleton(name));
    const own = new Set([name, ...argumentsOf(tool).map(([argument]) => argument)]);
    const isOthers = (one: string) => !own.has(one) && isTelling(one) && byName.has(one);
    const spokenIn = textsOf(tool)
      .filter(({ at }) => at !== 'name' && !at.endsWith('/name'))
      .flatMap(({ at, text }) => (text.match(/[\w-]+/g) ?? []).filter(isOthers).map((word) => ({ at, text, word })))[0];
    const spoken = spokenIn && byName.get(spokenIn.word);
    const asAnother = double && `The name is easily mistaken for ${double.tool} of tool server "${double.server}"`;
    const ofAnother = spoken && `The text mentions ${spoken.tool}, a tool of "${spoken.server}"`;
    return [
      ...(asAnother ? [{ at: 'name', says: asAnother, quote: name }] : []),
      ...(ofAnother
        ? [
            {
              at: spokenIn!.at,
              says: ofAnother,
              quote: quoteOf(spokenIn!.text, spokenIn!.text.indexOf(spoken.tool), spoken.tool.length),
            },
          ]
        : []),
    ];
  },
};
