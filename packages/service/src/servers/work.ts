import {
  type CatalogueHit,
  chosenSecrets,
  findInCatalogue,
  PindroError,
  type SecretChoice,
  type Understood,
  understandServers,
} from '@pindro/core';

/** A text may name so many servers: nobody reviews more of them at once. */
const MOST_SERVERS = 200;

function understand(text: string, choice: SecretChoice): Understood[] {
  const found = understandServers(text);
  if (found.length > MOST_SERVERS) {
    const why = `it names ${found.length} servers, and at most ${MOST_SERVERS} can be attached at once`;
    throw new PindroError('attach_unclear', { why });
  }
  return found.map((one) => chosenSecrets(one, choice));
}

const search = (text: string, words: string): CatalogueHit[] => findInCatalogue(text, words);

/** Reads what somebody pasted: any text, of which nobody knows how long it takes. */
export const serverWork = { understand, search };
