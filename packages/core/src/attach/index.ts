export { type CatalogueHit, findInCatalogue } from './catalogue.js';
export { understandServers } from './understand.js';
export type { AddressWay, CommandWay, Going, Understood } from './understood.js';
