import type { Speaks } from '@pindro/contract';
import { http } from './http.js';
import { sse } from './sse.js';
import { stdio } from './stdio.js';
import type { TransportKind } from './transport.js';

/** Every way to speak with a server; a new one is a line here. */
export const TRANSPORTS: Record<Speaks, TransportKind> = { http, sse, stdio };
