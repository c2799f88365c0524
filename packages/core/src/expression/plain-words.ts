const TYPES: Record<string, string> = {
  ...{ string: 'a string', int: 'an integer', double: 'a number', bool: 'true or false', null: 'null' },
  ...{ list: 'an array', map: 'an object', dyn: 'such a value', bytes: 'bytes', type: 'a type' },
};

/** A type as the library writes it, `dyn<list<int>>`, as people say it. */
function typeWords(type: string): string {
  const inner = /^dyn<(.+)>$/.exec(type.trim())?.[1] ?? type.trim();
  return TYPES[inner.split('<')[0]!] ?? 'an object';
}
/** Cuts at the commas that stand in no brackets. */
const listed = (types: string) =>
  types
    .split(/,(?![^<]*>)/)
    .filter((type) => type.trim() !== '')
    .map(typeWords)
    .join(' and ');

const CONVERT = 'convert one, for example with string() or double()';

/** What the library says, and how it is told. */
const SAYINGS: readonly [RegExp, (...found: string[]) => string][] = [
  [
    /^no such overload: (.+?) (==|!=|<=|>=|[<>+*/%-]|in) (.+)$/,
    (left, sign, right) => `${typeWords(left!)} and ${typeWords(right!)} do not go together with ${sign}; ${CONVERT}`,
  ],
  [/^no such overload: ([!-])(\S+)$/, (sign, type) => `${sign} does not take ${typeWords(type!)}`],
  [/^no such overload: (.*)$/, (types) => `${types} do not go together; ${CONVERT}`],
  [
    /^found no matching overload for '(\S+)\.(\w+)\((.*)\)'$/,
    (type, name, given) =>
      given
        ? `${name}() of ${typeWords(type!)} does not take ${listed(given)}`
        : `${name}() does not take ${typeWords(type!)}`,
  ],
  [
    /^found no matching overload for '(\w+)\((.*)\)'$/,
    (name, given) => `${name}() does not take ${given ? listed(given) : 'nothing'}`,
  ],
  [
    /^Ternary condition must be bool, got '(.*)'$/,
    (type) => `what stands before "?" must be true or false, and is ${typeWords(type!)}`,
  ],
  [
    /^Logical operator requires bool operands, got '(.*)'$/,
    (type) => `&& and || want true or false, and got ${typeWords(type!)}`,
  ],
  [/^(\w+)\(\) type error: .*$/, (name) => `${name}() cannot make ${TYPES[name!] ?? `a ${name}`} of it`],
  [/^No such key: (.*)$/, (key) => `there is no "${key}"`],
  [/^Unexpected token: EOF$/, () => 'it ends too early'],
];

/** The first line of a library error, in plain words. */
export function summary(error: unknown): string {
  const text = error instanceof Error ? ('summary' in error ? String(error.summary) : error.message) : String(error);
  const line = text.split('\n')[0]!;
  for (const [pattern, words] of SAYINGS) {
    const found = pattern.exec(line);
    if (found) return words(...found.slice(1));
  }
  return line;
}
