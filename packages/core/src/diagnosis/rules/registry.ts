import type { DiagnosisRule } from '../rule.js';
import { argumentMissing } from './argument-missing.js';
import { argumentsRefused } from './arguments-refused.js';
import { callerCredential } from './caller-credential.js';
import { circles } from './circles.js';
import { claims } from './claims.js';
import { credentialRefused } from './credential-refused.js';
import { cutOff } from './cut-off.js';
import { callInDoubt } from './doubt-call.js';
import { emptySearch } from './empty-search.js';
import { fieldErrors } from './field-errors.js';
import { httpRefused } from './http-refused.js';
import { interrupted } from './interrupted.js';
import { limits } from './limits.js';
import { mailRefused } from './mail-refused.js';
import { modelRefused } from './model-refused.js';
import { modelUnreachable } from './model-unreachable.js';
import { nameUnknown } from './name-unknown.js';
import { noBranch } from './no-branch.js';
import { noTools } from './no-tools.js';
import { noValue } from './no-value.js';
import { notAServer } from './not-a-server.js';
import { notApproved } from './not-approved.js';
import { notPublished } from './not-published.js';
import { notThere } from './not-there.js';
import { programFailed } from './program-failed.js';
import { recursion } from './recursion.js';
import { contextLost } from './result-trimmed.js';
import { resultUnfit } from './result-unfit.js';
import { ruleSupplies } from './rule-supplies.js';
import { scriptFailed } from './script-failed.js';
import { secretMissing } from './secret-missing.js';
import { serverUnreachable } from './server-unreachable.js';
import { stepFailed } from './step-failed.js';
import { stopped } from './stopped.js';
import { storage } from './storage.js';
import { tableRefused } from './table-refused.js';
import { timedOut } from './timed-out.js';
import { toolError } from './tool-error.js';
import { toolGone, toolInvented } from './tool-gone.js';
import { toolHeld } from './tool-held.js';
import { wrongType } from './wrong-type.js';

/** The special before the general: what one rule has explained, later ones leave. A new rule is one file and one line here. */
export const DIAGNOSIS_RULES: readonly DiagnosisRule[] = [
  ...[credentialRefused, callerCredential, secretMissing, notAServer, nameUnknown, programFailed, serverUnreachable],
  ...[timedOut, toolHeld, toolGone, toolInvented, argumentMissing, ruleSupplies, fieldErrors, toolError],
  ...[argumentsRefused, notThere, httpRefused, modelRefused, modelUnreachable, cutOff, circles, limits],
  ...[noTools, claims, noValue, wrongType, noBranch, emptySearch, resultUnfit, contextLost, mailRefused],
  ...[notApproved, notPublished, recursion, scriptFailed, tableRefused, storage, callInDoubt, interrupted, stopped],
  stepFailed,
];

/** What may only have come of something else in the same agent. */
export const CONSEQUENCES: readonly string[] = ['agent_in_circles', 'limit_reached'];
