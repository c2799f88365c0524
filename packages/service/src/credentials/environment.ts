import { existsSync } from 'node:fs';
import { isAbsolute } from 'node:path';
import { secretFormat, secretReason } from '@pindro/core';

/** A shorter value is likelier a word than a secret, in characters. */
const SHORTEST = 8;
/** Variables that a system sets for each session. Their names resemble those of secrets. */
const OF_THE_SYSTEM =
  /^(?:(?:OLD)?PWD|INIT_CWD|SSH_AUTH_SOCK|SESSION_MANAGER|DBUS_SESSION_BUS_ADDRESS|(?:XDG|DESKTOP|TERM)_SESSION\w*|DESKTOP_SESSION)$/;
/** Whether a value names a file or folder of this machine: no secret even if the content is one. */
const isPath = (value: string) => isAbsolute(value) && existsSync(value);

/**
 * Returns the values of environment variables that are secrets, by name or format. Values that the system sets are left
 * out: redacting the working directory would make every message that names a file unreadable.
 */
export function secretsOfEnvironment(environment: Readonly<Record<string, string | undefined>>): string[] {
  return Object.entries(environment).flatMap(([name, value = '']) => {
    if (value.length < SHORTEST || OF_THE_SYSTEM.test(name)) return [];
    const why = isPath(value) ? secretFormat(value) : secretReason(name, value);
    return why === null ? [] : [value];
  });
}
