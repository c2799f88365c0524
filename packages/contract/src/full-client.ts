import { type Client, type ClientOptions, clientOf } from './client.js';
import { routes } from './routes/index.js';

/** A client with one function for every route of the contract. */
export const createClient = (options: ClientOptions): Client => clientOf(routes, options);
