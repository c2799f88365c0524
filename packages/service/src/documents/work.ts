import { readOpenApi } from '@pindro/core';

/** What is done with OpenAPI documents in a thread: they come from anywhere, and may be long. */
export const documentWork = { read: readOpenApi };
