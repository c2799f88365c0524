import { argumentsOf, type FlagRule } from '../flag.js';

const SECRET =
  /(?:^|[-_.\s])(?:api[-_]?key|private[-_]?key|ssh[-_]?key|access[-_]?token|auth[-_]?token|secret|password|passwd|passphrase|pwd|credentials?|bearer|pin[-_]?code|cvv)s?$/i;
const SPOKEN =
  /\b(?:your|the user's|the caller's|system)\s+(?:api key|password|passphrase|private key|access token|secret|credentials?|system prompt)\b/i;
const EVERYTHING = /\b(?:entire|whole|full|complete)\s+(?:conversation|chat|context|system prompt|message history)\b/i;

export const asksSecrets: FlagRule = {
  rule: 'asks-secrets',
  about: 'An argument that asks the model for a secret or for the whole conversation.',
  holds: true,
  look: (tool) =>
    argumentsOf(tool).flatMap(([name, schema]) => {
      const words = typeof schema.description === 'string' ? schema.description : '';
      const isSecret = SECRET.test(name.replaceAll(/([a-z])([A-Z])/g, '$1_$2')) || SPOKEN.test(words);
      if (!isSecret && !EVERYTHING.test(words)) return [];
      const what = isSecret ? 'a secret' : 'the whole conversation';
      return [{ at: `arguments/${name}`, says: `The argument ${name} asks for ${what}`, quote: words || name }];
    }),
};
