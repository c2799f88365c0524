import { credentialKind, secretSource } from '@pindro/contract';
import type { JsonObject } from '@pindro/core';
import { z } from 'zod';
import { type Documents, defineSort, GIVE_AGAIN, quoted } from './sort.js';

const shape = z.strictObject({
  format: z.literal('pindro/credentials@1'),
  credentials: z.array(
    z.strictObject({
      name: z.string(),
      kind: credentialKind,
      header: z.string().optional(),
      account: z.string().default(''),
      origins: z.array(z.string()).optional(),
      source: secretSource.optional().describe('Source of the value'),
      secret: z.literal(GIVE_AGAIN, 'must remain unchanged: set a secret with a command, never in a file').optional(),
    }),
  ),
});

/** Credentials without their secrets: those that are here keep theirs, the others are gaps. */
export const credentials = defineSort<z.infer<typeof shape>>({
  at: 'credentials.yaml',
  adds: true,
  shape,
  write: ({ credentials }): Documents => {
    const all = credentials
      .list(() => [])
      .map(
        ({ name, kind, header, account, origins, source }): JsonObject => ({
          ...{ name, kind },
          ...(header && { header }),
          ...(account && { account }),
          ...(origins && { origins }),
          ...(source ? { source } : { secret: GIVE_AGAIN }),
        }),
      );
    return all.length === 0 ? {} : { 'credentials.yaml': { format: 'pindro/credentials@1', credentials: all } };
  },
  keep: ({ credentials: all }, { credentials }, overwrite) => {
    const here = all.filter(({ name }) => overwrite && credentials.names().includes(name));
    for (const { name, kind, header, account, origins } of here) {
      credentials.change(name, { kind, header, account });
      credentials.setOrigins(name, origins ?? []);
    }
    return here.length > 0;
  },
  gaps: ({ credentials: all }, { credentials }) =>
    all
      .filter(({ name }) => !credentials.names().includes(name))
      .map(({ name, kind, header, account, origins, source }) => ({
        what: `the secret of credential "${name}"`,
        command: [
          `pindro credential add ${quoted(name)}`,
          ...(kind === 'bearer' ? [] : [`--kind ${kind}`]),
          ...(header ? [`--header ${quoted(header)}`] : []),
          ...(account ? [`--account ${quoted(account)}`] : []),
          ...(source ? [sourceOption(source)] : []),
          ...(origins ? [`--origin ${origins.map(quoted).join(' ')}`] : []),
        ].join(' '),
      })),
});

const sourceOption = (source: { environment: string } | { file: string }) =>
  'environment' in source ? `--from-environment ${source.environment}` : `--from-file ${quoted(source.file)}`;
