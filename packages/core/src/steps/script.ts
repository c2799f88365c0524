import { z } from 'zod';
import { milliseconds } from '../text/duration.js';
import { duration, json } from './document.js';
import { defineKind } from './kind.js';

const MEGABYTE = 1024 * 1024;
const LONGEST = 60_000;

const config = z.strictObject({
  code: z
    .string()
    .min(1)
    .meta({ title: 'Code', description: 'JavaScript; its return value is the result', form: 'code' }),
  data: z
    .record(z.string(), json)
    .default({})
    .meta({ title: 'Data', description: 'Available to the script as "data"' }),
  time: duration
    .refine((text) => milliseconds(text) <= LONGEST, 'must be at most a minute')
    .default('1s')
    .meta({ title: 'Time', description: 'Maximum running time, at most a minute' }),
  memory: z
    .number()
    .int()
    .min(1)
    .max(256)
    .default(32)
    .meta({ title: 'Memory', description: 'Maximum memory in MiB', unit: 'MiB' }),
});

export const script = defineKind<z.infer<typeof config>>({
  name: 'script',
  title: 'Script',
  about: 'Runs JavaScript in a sandbox: no files, no network, limited time and memory.',
  config,
  raw: ['code'],
  plain: ['code'],
  repeatable: () => true,
  branches: () => [],
  sentence: (raw) => {
    const code = typeof raw.code === 'string' ? raw.code.trim() : '';
    const lines = code.split('\n').length;
    return ['Run ', { value: code.split('\n')[0] ?? '' }, lines > 1 ? ` and ${lines - 1} more lines` : ''];
  },
  output: () => ({ value: 'dyn', log: 'list<string>' }),
  references: () => ({}),
  run: async ({ code, data, time, memory }, { run: { ports, caller }, signal }) => {
    const { value, log } = await ports.scripts.run(
      { code, data, time: milliseconds(time), memory: memory * MEGABYTE },
      { signal, caller: caller.id },
    );
    return { output: { value, log } };
  },
});
