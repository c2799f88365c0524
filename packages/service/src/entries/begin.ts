import { PindroError } from '@pindro/core';
import type { FlowStore } from '../flows/store.js';
import type { Runner } from '../runs/runner.js';
import type { Begin, EntryOutcome } from './hooks.js';

/** Starts the live revision of a flow from an entry point. */
export function beginnerOf({ flows, runner }: { flows: FlowStore; runner: Runner }) {
  return ({ entry, input, caller, session = null, trace }: Parameters<Begin>[0]) => {
    const { document, revision } = flows.loadNow(entry.flow, 'live');
    const kind = entry.kind;
    const { run, outcome, ended } = runner.begin({
      document,
      revision,
      stage: 'live',
      entry: kind,
      caller,
      session,
      input,
      ...trace,
    });
    const presented: Promise<EntryOutcome> = outcome.then(({ state, result, error, receipt }) => ({
      run,
      state,
      result,
      ...(receipt && { receipt }),
      error: error ? refined(PindroError.from(error)) : null,
    }));
    return { run, outcome: presented, ended };
  };
}

/** The mistakes of an invalid input are part of the message only; a form needs them per field. */
function refined(error: PindroError): PindroError {
  const mistakes = error.details?.mistakes as PindroError['mistakes'] | undefined;
  return mistakes ? Object.assign(error, { mistakes }) : error;
}
