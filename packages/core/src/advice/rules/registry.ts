import type { DiagnosisRule } from '../finding.js';
import { argumentsRefused } from './arguments-refused.js';
import { modelUnreachable } from './model-unreachable.js';
import { noValue } from './no-value.js';
import { notAuthorised } from './not-authorised.js';
import { roundLimit } from './round-limit.js';
import { serverUnreachable } from './server-unreachable.js';
import { stepFailed } from './step-failed.js';
import { timedOut } from './timed-out.js';
import { toolError } from './tool-error.js';
import { toolHeld } from './tool-held.js';

/** Tried in order; the first that matches explains the failure. A new rule is one file and one line here. */
export const DIAGNOSIS_RULES: readonly DiagnosisRule[] = [
  argumentsRefused,
  toolError,
  notAuthorised,
  toolHeld,
  serverUnreachable,
  timedOut,
  modelUnreachable,
  roundLimit,
  noValue,
  stepFailed,
];
