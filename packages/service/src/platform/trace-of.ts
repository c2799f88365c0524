import { readTraceContext, type TraceContext } from '@pindro/core';
import type { Request } from 'express';

/** Returns the trace that the headers of a request name (W3C trace context). */
export const traceOf = ({ headers }: Request): TraceContext | undefined =>
  readTraceContext(headers.traceparent, headers.tracestate);
