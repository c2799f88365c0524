import { explainRun } from './explain-run.js';
import { followProposal } from './follow-proposal.js';
import { lookAtRuns } from './look-at-runs.js';
import { performFlow } from './perform-flow.js';
import { proposeFlow } from './propose-flow.js';
import { readContract } from './read-contract.js';
import { readFlow } from './read-flow.js';
import { readFormat } from './read-format.js';
import { surveyFlows } from './survey-flows.js';
import type { WorkshopTool } from './tool.js';

/** Every tool of the workshop, in the order they are listed. */
export const WORKSHOP_TOOLS: readonly WorkshopTool[] = [
  surveyFlows,
  readContract,
  performFlow,
  lookAtRuns,
  explainRun,
  readFlow,
  readFormat,
  proposeFlow,
  followProposal,
];
