import { z } from 'zod';
import { asPindroError, PindroError } from '../errors/errors.js';
import { isObject, type Json, type JsonObject } from '../json/json.js';
import { json, named, type StepDocument, stepsSchema } from './document.js';
import { defineKind } from './kind.js';

/** Maximum number of listed failures; all are counted. */
const FAILURES_LISTED = 1000;

const config = z
  .strictObject({
    list: z.array(json).meta({ title: 'Items', description: 'The list to process', form: 'list-value' }),
    steps: stepsSchema
      .optional()
      .meta({ title: 'Steps', description: 'Steps for each item; they see "item" and "index"', form: 'steps' }),
    flow: named('flow').optional().meta({ title: 'Flow', description: 'Or: a flow to call for each item' }),
    input: z
      .record(z.string(), json)
      .optional()
      .meta({ title: 'Its input', description: 'Input of that flow', form: 'input' }),
    result: json.optional().meta({ title: 'Result', description: 'What to collect from each item' }),
    at_once: z
      .number()
      .int()
      .min(1)
      .max(50)
      .default(1)
      .meta({ title: 'Concurrency', description: 'Number of items processed at the same time' }),
    on_failure: z
      .enum(['stop', 'collect'])
      .default('stop')
      .meta({
        title: 'On item failure',
        description: 'Whether a failed item ends the step, or is collected',
        words: { stop: 'the step fails', collect: 'collect the failure and continue' },
      }),
  })
  .refine((given) => (given.steps === undefined) !== (given.flow === undefined), 'takes either "steps" or "flow"');

/** A flow for each item is a body of one step that calls it. */
function bodyOf(raw: JsonObject): { steps: { [name: string]: StepDocument }; result: Json | undefined } | null {
  if (isObject(raw.steps)) return { steps: raw.steps as { [name: string]: StepDocument }, result: raw.result };
  if (typeof raw.flow !== 'string') return null;
  const call: StepDocument = { kind: 'flow', with: { flow: raw.flow, input: raw.input ?? { item: '${ item }' } } };
  return { steps: { call }, result: raw.result ?? '${ steps.call.result }' };
}

export const each = defineKind<z.infer<typeof config>>({
  name: 'each',
  title: 'For each',
  about: 'Runs the same steps for each item of a list, one by one or several in parallel.',
  config,
  raw: ['steps', 'flow', 'input', 'result'],
  resumable: true,
  body: bodyOf,
  repeatable: () => true,
  branches: () => [],
  sentence: (raw) => {
    const what = raw.flow
      ? ['run flow ', { value: raw.flow }]
      : [
          `do ${Object.keys(isObject(raw.steps) ? raw.steps : {})
            .join(', ')
            .replaceAll('_', ' ')}`,
        ];
    return [
      'For each of ',
      { value: raw.list ?? '' },
      ' ',
      ...what,
      Number(raw.at_once) > 1 ? `, ${raw.at_once} in parallel` : '',
    ];
  },
  output: () => ({ results: 'list<dyn>', count: 'int', failed: 'list<map<string, dyn>>', failures: 'int' }),
  // What the steps inside refer to is theirs to tell.
  references: () => ({}),
  run: async ({ list, at_once, on_failure, ...raw }, context) => {
    const keeps = bodyOf(raw as JsonObject)?.result !== undefined;
    const results: Json[] = [];
    const failed: JsonObject[] = [];
    let failures = 0;
    let first: { index: number; error: PindroError } | null = null;
    let next = 0;
    const work = async () => {
      while (next < list.length && !context.signal.aborted && (on_failure === 'collect' || !first)) {
        const index = next++;
        try {
          const result = await context.services.turn(index, list[index]!, context.parentSpan);
          if (keeps) results[index] = result;
        } catch (thrown) {
          if (context.signal.aborted) throw context.signal.reason;
          const error = asPindroError(thrown);
          failures++;
          first ??= { index, error };
          if (keeps) results[index] = null;
          if (failed.length < FAILURES_LISTED)
            failed.push({ index, code: error.code, message: context.recorder.masker.text(error.message) });
        }
      }
    };
    await Promise.all(Array.from({ length: Math.min(at_once, list.length) }, work));
    const { index, error } = first ?? ({} as { index?: number; error?: PindroError });
    if (error && on_failure === 'stop')
      throw new PindroError(
        'loop_failed',
        { failed: failures, count: list.length, index: index! + 1, why: error.message },
        { ...(error.at && { at: error.at }), cause: error, details: { index: index! } },
      );
    return { output: { results, count: list.length, failed, failures } };
  },
});
