import { InvalidArgumentError } from '@commander-js/extra-typings';

type Rules = Record<string, unknown>;

function cut(text: string): [name: string, value: string] {
  const equals = text.indexOf('=');
  if (equals < 1) throw new InvalidArgumentError('Use ARGUMENT=VALUE.');
  return [text.slice(0, equals), text.slice(equals + 1)];
}

/** JSON where it is that, else the text. */
function readValue(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return text;
  }
}

/** Argument rules as options of a command give them, each option as often as one likes. */
export const readArguments = {
  set: (text: string, before: Rules): Rules => {
    const [name, value] = cut(text);
    return { ...before, [name]: { set: readValue(value) } };
  },
  ask: (text: string, before: Rules): Rules => {
    const [name, description] = cut(text);
    return { ...before, [name]: { ask: { description } } };
  },
  omit: (name: string, before: Rules): Rules => ({ ...before, [name]: 'omit' }),
};
