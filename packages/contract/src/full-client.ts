import { type Client, type ClientOptions, clientOf } from './client.js';
import { routes } from './routes/index.js';

/**
 * A client with one function for every route of the contract.
 * @param options address of the service, access key, and a `fetch` to use
 * @returns the client; its functions throw `ProblemError` or `UnreachableError`
 */
export const createClient = (options: ClientOptions): Client => clientOf(routes, options);
