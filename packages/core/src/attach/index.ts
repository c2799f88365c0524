export { type CatalogueHit, findInCatalogue } from './catalogue.js';
export { recognizeServers } from './recognize.js';
export {
  type AddressConnection,
  type CommandConnection,
  chosenSecrets,
  type OutgoingValue,
  type RecognizedServer,
  type SecretChoice,
} from './recognized-server.js';
export { secretFormat, secretReason } from './secrets.js';
