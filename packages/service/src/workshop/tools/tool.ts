import type { FlowOutcome, Json, Surroundings } from '@pindro/core';
import type { z } from 'zod';
import type { EndpointStore } from '../../endpoints/store.js';
import type { ToolCallRequest } from '../../endpoints/tool-call-request.js';
import type { EntryStore } from '../../entries/store.js';
import type { FlowChecker } from '../../flows/checker.js';
import type { FlowStore } from '../../flows/store.js';
import type { RunStore } from '../../record/reading/run-store.js';
import type { Runner } from '../../runs/runner.js';
import type { ProposalStore } from '../proposals.js';
import type { WorkshopStore } from '../store.js';

/** What the tools of the workshop look into. */
export interface WorkshopParts {
  workshop: WorkshopStore;
  proposals: ProposalStore;
  flows: FlowStore;
  endpoints: EndpointStore;
  entries: EntryStore;
  runs: RunStore;
  runner: Runner;
  checker: FlowChecker;
  surroundings(): Surroundings;
  /** Address of the service. */
  address(): string;
}

/** One tool of the workshop. A tool is one file here and one line in the registry. */
export interface WorkshopTool<T = unknown> {
  name: string;
  title: string;
  /** What the model reads. */
  about: string;
  input: z.ZodType<T>;
  /** Whether it changes nothing. */
  reads: boolean;
  /** Whether a key must say that it may propose. */
  wider: boolean;
  /** @param given as `input` reads it */
  call(given: T, parts: WorkshopParts, request: ToolCallRequest): Promise<Answer> | Answer;
}
export type Answer = { result: Json } | { outcome: FlowOutcome };

export const defineTool = <T>(tool: WorkshopTool<T>): WorkshopTool => tool as unknown as WorkshopTool;
