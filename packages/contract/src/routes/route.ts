import type { z } from 'zod';
import type { Role } from '../roles.js';

/** One operation of the API with its request and response. */
export interface Route {
  method: 'GET' | 'POST' | 'PUT' | 'DELETE';
  /** The least role that may use it. */
  role: Role;
  /** Below `/api/v1`, with `:name` for parameters. */
  path: string;
  about: string;
  query?: z.ZodObject;
  body?: z.ZodType;
  answer: z.ZodType;
  /** The answer comes as server-sent events, each of this shape. */
  stream?: boolean;
}
