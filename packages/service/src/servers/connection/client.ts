import { Client } from '@modelcontextprotocol/sdk/client/index.js';
import { AjvJsonSchemaValidator } from '@modelcontextprotocol/sdk/validation/ajv-provider.js';

/** Shared by all clients: each creates its own otherwise, which takes a millisecond. */
const validator = new AjvJsonSchemaValidator();

/** Returns a client that is not connected yet. */
export const newClient = () => new Client({ name: 'pindro', version: '0.1.0' }, { jsonSchemaValidator: validator });
