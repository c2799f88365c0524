const TYPES: Record<string, string> = {
  ...{ string: 'a string', int: 'an integer', double: 'a number', bool: 'true or false', null: 'null' },
  ...{ list: 'an array', map: 'an object', dyn: 'such a value', bytes: 'bytes', type: 'a type' },
};

/** A type as the library writes it, `dyn<list<int>>`, as people say it. */
function typeWords(type: string): string {
  const inner = /^dyn<(.+)>$/.exec(type.trim())?.[1] ?? type.trim();
  return TYPES[inner.split('<')[0]!] ?? 'an object';
}
/** Splits at top-level commas. */
const listed = (types: string) =>
  types
    .split(/,(?![^<]*>)/)
    .filter((type) => type.trim() !== '')
    .map(typeWords)
    .join(' and ');

const CONVERT = 'convert one, for example with string() or double()';

/** Messages of the library, and our replacements. */
const SAYINGS: readonly [RegExp, (...found: string[]) => string][] = [
  [
    /^no such overload: (.+?) (==|!=|<=|>=|[<>+*/%-]|in) (.+)$/,
    (left, sign, right) => `${typeWords(left!)} and ${typeWords(right!)} cannot be combined with ${sign}; ${CONVERT}`,
  ],
  [/^no such overload: ([!-])(\S+)$/, (sign, type) => `${sign} does not accept ${typeWords(type!)}`],
  [/^no such overload: (.*)$/, (types) => `${types} cannot be combined; ${CONVERT}`],
  [
    /^found no matching overload for '(\S+)\.(\w+)\((.*)\)'$/,
    (type, name, given) =>
      given
        ? `${name}() of ${typeWords(type!)} does not accept ${listed(given)}`
        : `${name}() does not accept ${typeWords(type!)}`,
  ],
  [
    /^found no matching overload for '(\w+)\((.*)\)'$/,
    (name, given) => `${name}() does not accept ${given ? listed(given) : 'nothing'}`,
  ],
  [
    /^Ternary condition must be bool, got '(.*)'$/,
    (type) => `the operand of "?" must be true or false, and is ${typeWords(type!)}`,
  ],
  [
    /^Logical operator requires bool operands, got '(.*)'$/,
    (type) => `&& and || require true or false, and got ${typeWords(type!)}`,
  ],
  [/^(\w+)\(\) type error: .*$/, (name) => `${name}() cannot convert it to ${TYPES[name!] ?? `a ${name}`}`],
  [/^No such key: (.*)$/, (key) => `there is no "${key}"`],
  [/^Unexpected token: EOF$/, () => 'the expression ends too early'],
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
