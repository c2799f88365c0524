import { program, serverLimits, serverNetwork, speaks, watch } from '@pindro/contract';
import {
  anyJson,
  asJson,
  DEFAULT_TRANSPORT,
  type JsonObject,
  PROGRAM_TRANSPORT,
  type ToolDescription,
} from '@pindro/core';
import { z } from 'zod';
import { hasGap, withoutKeys } from './addresses.js';
import { defineSort, quoted } from './sort.js';

const object = z.record(z.string(), anyJson);
const shape = z.strictObject({
  format: z.literal('pindro/server@1'),
  name: z.string(),
  url: z.string().default('').describe('Its address; not used for a program'),
  program: program.optional().describe('A program on this machine; it does not run before an owner allows it'),
  limits: serverLimits.default({}),
  network: serverNetwork.omit({ proxy: true }).default({}),
  watch: watch.default('flagged'),
  speaks: speaks.default(DEFAULT_TRANSPORT),
  credential: z.string().optional(),
  also: z.array(z.string()).default([]).describe('Additional credentials to send'),
  headers: z.record(z.string(), z.string()).default({}).describe('Headers without secrets'),
  rules: object.default({}).describe('Argument rules for every tool with that argument'),
  about: z.string().default(''),
  instructions: z.string().default(''),
  tools: z
    .array(z.looseObject({ name: z.string() }))
    .default([])
    .describe('As of the last refresh'),
});

export const servers = defineSort<z.infer<typeof shape>>({
  at: 'servers',
  named: 'name',
  shape,
  write: ({ servers }) =>
    Object.fromEntries(
      servers.list().map((one) => {
        const { name, url, speaks: how, credential, also, headers, about, instructions, limits } = one;
        // A proxy belongs to the place, not to the workspace.
        const { proxy: _, ...network } = one.network;
        const rules = asJson(servers.repository.rules(name));
        return [
          `servers/${name}.yaml`,
          {
            ...{
              format: 'pindro/server@1',
              name,
              ...(one.program ? { program: one.program } : { url: withoutKeys(url) }),
            },
            ...(Object.keys(limits).length > 0 && { limits }),
            ...(Object.keys(network).length > 0 && { network }),
            ...(one.watch !== 'flagged' && { watch: one.watch }),
            ...(!one.program && how !== DEFAULT_TRANSPORT && { speaks: how }),
            ...(credential && { credential }),
            ...(also.length > 0 && { also }),
            ...(Object.keys(headers).length > 0 && { headers }),
            ...(Object.keys(rules).length > 0 && { rules }),
            ...(about && { about }),
            ...(instructions && { instructions }),
            tools: asJson(servers.repository.tools(name)),
          },
        ];
      }),
    ),
  keep: (value, { servers }) => {
    const here = servers.names().includes(value.name) ? servers.summary(value.name).url : null;
    // A key that the file omits remains unchanged.
    const url = here && withoutKeys(here) === value.url ? here : value.url;
    const { format: _, ...rest } = value;
    servers.keepWritten({
      ...rest,
      url,
      speaks: value.program ? PROGRAM_TRANSPORT : value.speaks,
      program: value.program ?? null,
      credential: value.credential ?? null,
      rules: value.rules as JsonObject,
      tools: value.tools as unknown as ToolDescription[],
    });
    return true;
  },
  gaps: ({ name }, { servers }) => {
    if (!servers.summary(name).allowed)
      return [
        {
          what: `tool server "${name}" is a program and must be allowed to run`,
          command: `pindro server allow ${quoted(name)}`,
        },
      ];
    if (!hasGap(servers.summary(name).url)) return [];
    const command = `pindro server update ${quoted(name)} --address ADDRESS`;
    return [{ what: `tool server "${name}" has a key in its address`, command }];
  },
  after: ({ name }, { servers }) => {
    if (!servers.summary(name).program) void servers.refresh(name).catch(() => {});
  },
});
