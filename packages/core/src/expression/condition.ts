import type { Environment } from '@marcbachmann/cel-js';
import { baseEnvironment } from './environment.js';
import { summary } from './plain-words.js';

let environment: Environment | undefined;
let resultEnvironment: Environment | undefined;

/** What is wrong with an expression over a call, which sees its `args` and its `result`; null where nothing is. */
export function resultFault(text: string): string | null {
  resultEnvironment ??= baseEnvironment().registerVariable('args', 'dyn').registerVariable('result', 'dyn');
  try {
    const { valid, error } = resultEnvironment.check(text);
    return valid ? null : summary(error ?? 'the condition cannot be parsed');
  } catch (error) {
    return summary(error);
  }
}

/** What is wrong with a condition on the arguments of a call, which sees `args` alone; null where nothing is. */
export function conditionFault(text: string): string | null {
  environment ??= baseEnvironment().registerVariable('args', 'dyn');
  try {
    const { valid, type, error } = environment.check(text);
    if (!valid)
      return String((error as Error | undefined)?.message ?? 'the condition cannot be parsed').split('\n')[0]!;
    return type === 'bool' || type === 'dyn' ? null : `the condition evaluates to ${type}, and must be true or false`;
  } catch (error) {
    return (error as Error).message.split('\n')[0]!;
  }
}

/** The arguments that a condition reads by name. */
export const argumentsRead = (text: string): string[] => [
  ...new Set([...text.matchAll(/\bargs\.([A-Za-z_]\w*)/g)].map(([, name]) => name!)),
];
