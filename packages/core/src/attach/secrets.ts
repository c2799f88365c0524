import { type Going, going } from './understood.js';

/** Names of values that are secrets: `LIFT_API_KEY`, `--token`, `X-Api-Key`, `access_token`. */
const SECRET_NAME =
  /(?:^|[-_.\s])(?:api[-_]?key|apikey|key|token|secret|password|passwd|pwd|auth|authorization|bearer|credential|pat)s?$/i;
/** Names that only look so. */
const PLAIN_NAME = /(?:public[-_]?key|key[-_]?(?:id|file|path)|token[-_]?(?:limit|count|url)|max[-_]?tokens?)$/i;
/** Words that stand for a value which somebody has to fill in. */
const PLACE =
  /^(?:<[^>]*>|\[[^\]]*\]|\{\{?[^}]*\}?\}|\$\{[^}]*\}|%[A-Za-z_]\w*%|\$[A-Za-z_]\w*|x{3,}|\*{3,}|\.{3}|…|your[-_ ].*|.*[-_ ]here|insert[-_ ].*|replace[-_ ].*|change[-_ ]?me)$/i;

export const isSecretName = (name: string): boolean => SECRET_NAME.test(name) && !PLAIN_NAME.test(name);
export const isPlace = (value: string): boolean => value.trim() === '' || PLACE.test(value.trim());

/** A named value: a secret by its name, and missing where only its place stands there. */
export const namedValue = (name: string, value: string): Going =>
  going(name, isPlace(value) ? '' : value, { secret: isSecretName(name), missing: isPlace(value) });
