import type { FlowDocument } from '../flow/document.js';
import type { Json } from '../json/json.js';
import type { Ports } from '../ports/ports.js';
import type { StartFlow } from '../tools/start-flow.js';
import type { RunHead } from '../trace/journal/head.js';
import { newRunId } from '../trace/journal/ids.js';
import type { JournalEntry } from '../trace/journal/journal.js';
import type { Recorder } from '../trace/journal/recorder.js';
import type { Replay } from './replay.js';
import type { RunRequest } from './request.js';

/** Of the run that begins another one. */
interface Parent {
  readonly head: RunHead;
  readonly ports: Ports;
  readonly recorder: Recorder;
  readonly replay: Replay | null;
}

/** A flow that a step is about to begin. */
interface ChildCall {
  /** Where in the run that begins it. */
  path: string;
  span: string;
  /** Name of the flow. */
  name: string;
  input: Json;
  options: Parameters<StartFlow>[2] & { wait: boolean };
}

/**
 * What a run that another one begins is: a new one, or that which had begun at the same place before the service was
 * started again. That it is begun is in the journal of who begins it.
 */
export async function childRequest(
  { head, ports, recorder, replay }: Parent,
  { path, span, name, input, options }: ChildCall,
): Promise<RunRequest> {
  const { parentSpan, entry, wait } = options;
  const known = wait ? replay?.child(path) : undefined;
  const resume = known === undefined ? [] : await ports.record.read(known);
  const { document, revision } = await ports.flows.load(name, head.stage, revisionOf(resume));
  const runId = known ?? newRunId();
  if (wait && !known) {
    recorder.journal({ type: 'child', path, child: runId, span });
    // What it does must find its way back here: that it was begun is on disk before it begins.
    if (entry === 'agent') await recorder.commit();
  }
  return {
    document: document as unknown as FlowDocument,
    revision,
    stage: head.stage,
    entry,
    caller: head.caller,
    session: head.session,
    ...(head.through && { through: head.through }),
    ...(head.exact && { exact: true }),
    input: inputOf(resume) ?? input,
    runId,
    traceId: head.traceId,
    ...(head.traceState && { traceState: head.traceState }),
    parentSpan,
    parentRun: head.id,
    ...(resume.length > 0 && { resume }),
  };
}

const startOf = (entries: readonly JournalEntry[]) =>
  entries.find((entry): entry is Extract<JournalEntry, { type: 'started' }> => entry.type === 'started');
const revisionOf = (entries: readonly JournalEntry[]) => startOf(entries)?.head.revision ?? undefined;
const inputOf = (entries: readonly JournalEntry[]) => {
  const start = startOf(entries);
  return start && (start.sealed ?? start.head.input);
};
