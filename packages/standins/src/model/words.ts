/** Plain words that mean much the same when somebody asks for something to be done. */
const ALIKE: readonly (readonly string[])[] = [
  ['reserve', 'book', 'reservation'],
  ['send', 'schedule', 'deliver', 'ship', 'dispatch', 'bring', 'carry'],
  ['free', 'available', 'availability', 'vacancy', 'vacant', 'room', 'space'],
  ['list', 'show', 'which', 'what'],
  ['cancel', 'remove', 'delete', 'drop', 'undo'],
  ['status', 'state', 'running', 'condition', 'works'],
  ['find', 'search', 'look', 'lookup'],
  ['order', 'buy', 'purchase'],
  ['create', 'add', 'make', 'new'],
  ['change', 'update', 'edit', 'set'],
  ['weather', 'forecast'],
];
const canonical = new Map(ALIKE.flatMap((group) => group.map((word) => [stem(word), stem(group[0]!)] as const)));

const STOP = new Set(
  'a an the to of in on at for and or is are be it its this that with up me my we our you your i one please can could would will there do does how many much from by not no use only whenever somebody if who then'.split(
    ' ',
  ),
);

/** The bare form of an English word, roughly: without its plural, -ing and -ed. */
export function stem(word: string): string {
  const bare = word.toLowerCase();
  if (bare.length > 5 && bare.endsWith('ing')) return bare.slice(0, -3);
  if (bare.length > 4 && bare.endsWith('ed')) return bare.slice(0, -2);
  if (bare.length > 4 && bare.endsWith('ies')) return `${bare.slice(0, -3)}y`;
  if (bare.length > 3 && bare.endsWith('s') && !bare.endsWith('ss')) return bare.slice(0, -1);
  return bare;
}

/** The meaningful words of a text in their common form; `snake_case` and `camelCase` are taken apart. */
export function meanings(text: string): string[] {
  const words =
    text
      .replace(/([a-z])([A-Z])/g, '$1 $2')
      .toLowerCase()
      .match(/[a-zäöüß]+/g) ?? [];
  return words.filter((word) => !STOP.has(word)).map((word) => canonical.get(stem(word)) ?? stem(word));
}
