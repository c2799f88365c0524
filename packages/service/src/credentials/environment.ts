import { secretFormat, secretReason } from '@pindro/core';

/** A shorter value is likelier a word than a secret, in characters. */
const SHORTEST = 8;
/** Variables that a system sets for each session. Their names resemble those of secrets. */
const OF_THE_SYSTEM =
  /^(?:(?:OLD)?PWD|INIT_CWD|SSH_AUTH_SOCK|SESSION_MANAGER|DBUS_SESSION_BUS_ADDRESS|(?:XDG|DESKTOP|TERM)_SESSION\w*|DESKTOP_SESSION)$/;
/** The path of a file, which is no secret even where its content is one. */
const PATH = /^(?:~?\/|[A-Za-z]:\\)/;

/**
 * Returns the values of environment variables that are secrets, by name or format. Values that the system sets are left
 * out: redacting the working directory would make every message that names a file unreadable.
 */
export function secretsOfEnvironment(environment: Readonly<Record<string, string | undefined>>): string[] {
  return Object.entries(environment).flatMap(([name, value = '']) => {
    if (value.length < SHORTEST || OF_THE_SYSTEM.test(name)) return [];
    const why = PATH.test(value) ? secretFormat(value) : secretReason(name, value);
    return why === null ? [] : [value];
  });
}
