import { DURATION } from '@pindro/core/browser';
import { z } from 'zod';

const duration = z.string().regex(DURATION, 'must be a duration such as 10s');

/** Timeouts and limits of a tool server. Omitted ones have defaults. */
export const serverLimits = z.strictObject({
  connect: duration.optional().describe('Connection timeout; 10s by default'),
  call: duration.optional().describe('Call timeout; 60s by default, extended while progress is reported'),
  silence: duration.optional().describe('Call timeout without progress'),
  at_once: z.number().int().min(1).max(1000).optional().describe('Maximum number of concurrent calls; others wait'),
  per_minute: z
    .number()
    .int()
    .min(1)
    .max(100_000)
    .optional()
    .describe('Maximum number of calls per minute; others wait'),
  idle: duration.optional().describe('Idle time after which an unused program stops; 10m by default'),
});
export type ServerLimits = z.infer<typeof serverLimits>;
export const DEFAULT_LIMITS = { connect: '10s', call: '60s', idle: '10m' } as const satisfies ServerLimits;

/** Network settings of a server: certificate authorities, client certificate and proxy. */
export const serverNetwork = z.strictObject({
  ca: z
    .string()
    .max(200_000)
    .regex(/-----BEGIN CERTIFICATE-----/, 'must be PEM certificates')
    .optional()
    .describe('Additional trusted certificate authorities, in PEM'),
  certificate: z.string().optional().describe('Credential of kind certificate, for client authentication'),
  proxy: z
    .url({ protocol: /^https?$/ })
    .optional()
    .describe('Proxy for its connections; requires the role owner'),
});
export type ServerNetwork = z.infer<typeof serverNetwork>;
