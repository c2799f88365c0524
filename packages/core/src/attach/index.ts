export { understandServers } from './understand.js';
export type { AddressWay, CommandWay, Going, Understood } from './understood.js';
