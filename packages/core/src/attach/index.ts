export { type CatalogueHit, findInCatalogue } from './catalogue.js';
export { secretFormat, secretReason } from './secrets.js';
export { recognizeServers } from './understand.js';
export {
  type AddressWay,
  type CommandWay,
  chosenSecrets,
  type Going,
  type SecretChoice,
  type Understood,
} from './understood.js';
