import { PindroError } from '../../errors/errors.js';
import { isObject, type JsonObject } from '../../json/json.js';
import type { ModelConnection } from '../../ports/ports.js';
import type { Ask } from '../asking.js';
import { type ModelSettings, settingsOf } from '../settings.js';

type Optional = 'temperature' | 'max_tokens' | 'effort' | 'stop';
/** What the wire formats call a setting. */
const NAMES: Record<Optional, string[]> = {
  temperature: ['temperature'],
  max_tokens: ['max_tokens', 'maxOutputTokens', 'max_output_tokens'],
  effort: ['reasoning_effort', 'thinking', 'thinkingConfig', 'thinkingBudget', 'thinking_budget', 'reasoning'],
  stop: ['stop', 'stop_sequences', 'stopSequences'],
};
const SAYS_SO =
  /unsupported|not support|unknown|unrecognized|unexpected|not permitted|not allowed|extra inputs|only the default/i;
/** The later name of a setting in one of the formats. */
const RENAMED = 'max_completion_tokens';

/** What is known of the models of this process: a setting that is refused once is not sent again. */
const known = new Map<string, Set<Optional | typeof RENAMED>>();

/**
 * Asks a model again without a setting that it does not support, and reports it as `omitted`. A format renamed
 * `max_tokens`: a model that asks for the other name gets it.
 */
export const withoutUnsupported =
  (ask: Ask): Ask =>
  async (connection, turns, tools, options) => {
    const key = `${connection.base} ${connection.model}`;
    const omitted = new Set(known.get(key));
    for (;;) {
      try {
        const answer = await ask(without(connection, omitted), turns, tools, options);
        const names = [...omitted].filter((name): name is Optional => name !== RENAMED && isSet(connection, name));
        return { ...answer, by: connection, ...(names.length > 0 && { omitted: names }) };
      } catch (error) {
        const name = refusedSetting(error, connection);
        if (name === null || omitted.has(name)) throw error;
        omitted.add(name);
        known.set(key, omitted);
        const why =
          name === RENAMED
            ? `${connection.model} requires "${RENAMED}" instead of "max_tokens"`
            : `${connection.model} does not support "${name}", which is omitted`;
        options.onAgain?.({ why, waited: 0, connection: connection.name });
      }
    }
  };

const isSet = ({ settings }: ModelConnection, name: Optional) => settingsOf(settings)[name] !== undefined;

function without(connection: ModelConnection, omitted: ReadonlySet<string>): ModelConnection {
  if (omitted.size === 0) return connection;
  const { max_tokens, ...rest }: ModelSettings = settingsOf(connection.settings);
  const settings = Object.fromEntries(Object.entries({ ...rest, max_tokens }).filter(([name]) => !omitted.has(name)));
  if (omitted.has(RENAMED) && max_tokens !== undefined) {
    delete settings.max_tokens;
    settings.body = { ...(isObject(settings.body) ? settings.body : {}), [RENAMED]: max_tokens };
  }
  return { ...connection, settings: settings as JsonObject };
}

/** The setting that a refusal is about, or null. */
function refusedSetting(error: unknown, connection: ModelConnection): Optional | typeof RENAMED | null {
  if (!(error instanceof PindroError) || error.code !== 'model_refused' || error.details?.kind !== 'request')
    return null;
  const { param = '', why = '' } = error.details;
  const words = String(why);
  if (!SAYS_SO.test(words) && param === '') return null;
  const found = (Object.keys(NAMES) as Optional[]).find(
    (name) =>
      isSet(connection, name) &&
      NAMES[name].some((one) => param === one || new RegExp(`(?:^|[^\\w])${one}(?:[^\\w]|$)`).test(words)),
  );
  if (!found || (!SAYS_SO.test(words) && !NAMES[found].includes(String(param)))) return null;
  return found === 'max_tokens' && words.includes(RENAMED) ? RENAMED : found;
}
