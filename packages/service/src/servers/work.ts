import {
  type CatalogueHit,
  chosenSecrets,
  findInCatalogue,
  PindroError,
  type RecognizedServer,
  recognizeServers,
  type SecretChoice,
} from '@pindro/core';

/** Maximum number of servers in a text. */
const MOST_SERVERS = 200;

function understand(text: string, choice: SecretChoice): RecognizedServer[] {
  const found = recognizeServers(text);
  if (found.length > MOST_SERVERS) {
    const why = `the text names ${found.length} servers, and the limit is ${MOST_SERVERS}`;
    throw new PindroError('attach_unclear', { why });
  }
  return found.map((one) => chosenSecrets(one, choice));
}

const search = (text: string, words: string): CatalogueHit[] => findInCatalogue(text, words);

/** Reads what somebody pasted: any text, of which nobody knows how long it takes. */
export const serverWork = { understand, search };
