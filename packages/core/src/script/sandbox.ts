import variant from '@jitl/quickjs-singlefile-mjs-release-sync';
import {
  newQuickJSWASMModuleFromVariant,
  newVariant,
  type QuickJSContext,
  type QuickJSHandle,
  type QuickJSWASMModule,
  Scope,
} from 'quickjs-emscripten-core';
import { PindroError } from '../errors/errors.js';
import type { Json } from '../json/json.js';
import { humanSize } from '../json/size.js';
import type { ScriptRequest } from '../ports/ports.js';

/** Number and length of log lines. */
const LOG_LINES = 200;
const LOG_LENGTH = 2000;
const STACK = 512 * 1024;
/** A longer result would hold up whoever takes it. */
const LONGEST_RESULT = 4 * 1024 * 1024;
/** Interrupt checks per millisecond of the limit: about as many as happen in that time. */
const TURNS = 10;
/** Factor for CPU time: other work in the process uses some of it. */
const SLOWER = 3;
/** The script is in a function that starts one line above it. */
const BEGIN = '(function (data) { "use strict"; try { return (() => {\n';
/** Nothing thrown means out of memory; a script that throws nothing reports that itself. */
const END =
  '\n})(); } catch (thrown) { throw thrown === null || thrown === undefined ? new Error("it threw " + thrown) : thrown; } })';
const FILE = 'script';

/** What the machine itself would print when it is taken down out of memory says nothing to whoever runs the service. */
const quiet = newVariant(variant, {
  emscriptenModule: { printErr: () => {} } as object,
});
let loading: Promise<QuickJSWASMModule> | undefined;

/**
 * Runs JavaScript in a QuickJS virtual machine of its own: it sees `data` and `console.log`, and nothing else. It holds
 * up its thread for as long as it runs, so it wants a thread of its own.
 * @param used processor time so far, in milliseconds @throws script_failed with the line, script_limit
 */
export async function runScript(
  { code, data, time, memory }: ScriptRequest,
  used: () => number = () => performance.now(),
): Promise<{ value: Json; log: string[] }> {
  loading ??= newQuickJSWASMModuleFromVariant(quiet);
  const runtime = (await loading).newRuntime();
  runtime.setMemoryLimit(memory);
  runtime.setMaxStackSize(STACK);
  // Counted, not timed: on a busy machine a script gets as much done as on an idle one.
  let left = time * TURNS;
  // What the count does not see, such as making large values, is held to processor time where that can be told.
  const end = used() + time * SLOWER;
  let late = false;
  runtime.setInterruptHandler(() => {
    late = --left < 0 || used() > end;
    return late;
  });
  const machine = runtime.newContext();
  const log: string[] = [];
  try {
    addLog(machine, log);
    const text = evaluate(machine, code, data);
    if (text !== undefined && text.length > LONGEST_RESULT)
      throw new PindroError('script_limit', { why: `its result is longer than ${humanSize(LONGEST_RESULT)}` });
    return { value: text === undefined ? null : (JSON.parse(text) as Json), log };
  } catch (error) {
    throw late
      ? new PindroError('script_limit', { why: `it ran longer than ${time} ms` })
      : explain(error, code, memory);
  } finally {
    try {
      machine.dispose();
      runtime.dispose();
    } catch {
      // A machine that ran out of memory cannot always be taken down in order; the next one gets a module of its own.
      loading = undefined;
    }
  }
}

/** @returns what the script returned, as JSON text */
function evaluate(machine: QuickJSContext, code: string, data: Json): string | undefined {
  return Scope.withScope((scope) => {
    const run = (source: string, file?: string) => scope.manage(machine.unwrapResult(machine.evalCode(source, file)));
    const call = (made: QuickJSHandle, given: QuickJSHandle) =>
      scope.manage(machine.unwrapResult(machine.callFunction(made, machine.undefined, given)));
    const made = run(`${BEGIN}${code}${END}`, FILE);
    const given = scope.manage(machine.newString(JSON.stringify(data)));
    const result = settled(machine, call(made, call(run('JSON.parse'), given)), scope);
    const text = call(run('(value) => JSON.stringify(value)'), result);
    return machine.typeof(text) === 'undefined' ? undefined : machine.getString(text);
  });
}

/** What a promise comes to, or the value itself. */
function settled(machine: QuickJSContext, value: QuickJSHandle, scope: Scope): QuickJSHandle {
  const before = machine.getPromiseState(value);
  if (before.type === 'fulfilled') {
    if (before.notAPromise) return value;
    return scope.manage(before.value);
  }
  machine.unwrapResult(machine.runtime.executePendingJobs());
  const state = machine.getPromiseState(value);
  if (state.type === 'fulfilled') return scope.manage(state.value);
  if (state.type === 'rejected') return machine.unwrapResult({ error: state.error });
  throw new PindroError('script_failed', { where: '', why: 'the script waits for something that never happens' });
}

function addLog(machine: QuickJSContext, log: string[]): void {
  const write = machine.newFunction('log', (...parts) => {
    if (log.length >= LOG_LINES) return;
    const words = parts.map((part) => {
      const value: unknown = machine.dump(part);
      return typeof value === 'string' ? value : (JSON.stringify(value) ?? 'undefined');
    });
    const line = words.join(' ');
    // Never cut: half of a secret would not be known for one.
    log.push(line.length > LOG_LENGTH ? `(a line of ${line.length} characters)` : line);
  });
  const console = machine.newObject();
  machine.setProp(console, 'log', write);
  machine.setProp(machine.global, 'console', console);
  write.dispose();
  console.dispose();
}

function explain(error: unknown, code: string, memory: number): PindroError {
  if (error instanceof PindroError) return error;
  // A script may throw anything, null too.
  const { name = 'Error', message = String(error), stack = '' } = (error ?? {}) as Partial<Error>;
  if (/out of memory|memory access out of bounds/i.test(message) || message === 'null')
    return new PindroError('script_limit', {
      why: `the script needed more than ${Math.round(memory / 1024 / 1024)} MiB`,
    });
  if (/stack overflow|call stack/i.test(message))
    return new PindroError('script_limit', { why: 'unlimited recursion' });
  const line = Number(new RegExp(`${FILE}:(\\d+)`).exec(stack)?.[1] ?? 0) - 1;
  const lines = code.split('\n').length;
  // A mistake that only shows at the end is reported behind the last line.
  const where = line >= 1 ? ` in line ${Math.min(line, lines)}` : '';
  return new PindroError(
    'script_failed',
    { where, why: `${name === 'Error' ? '' : `${name}: `}${message}` },
    { at: '/code', ...(where && { details: { line: Math.min(line, lines) } }) },
  );
}
