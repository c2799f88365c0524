import { readOpenApi } from '@pindro/core';
import { answerInThread } from '../platform/work-thread.js';
import type { ReadRequest } from './store.js';

/* The thread in which OpenAPI documents are read: they come from anywhere, and may be long. */
answerInThread(({ text, wanted }: ReadRequest) => readOpenApi(text, wanted));
