import type { DiagnosisRule } from '../rule.js';
import { notThere } from './address-has-nothing.js';
import { httpRefused } from './address-refused.js';
import { circles } from './agent-in-circles.js';
import { cutOff } from './answer-cut-off.js';
import { answerWithheld } from './answer-withheld.js';
import { argumentMissing } from './argument-now-required.js';
import { argumentRenamed } from './argument-renamed.js';
import { argumentsRefused } from './arguments-refused.js';
import { callInDoubt } from './call-in-doubt.js';
import { callerCredential } from './caller-credential.js';
import { recursion } from './calls-itself.js';
import { contextLost } from './context-full.js';
import { secretMissing } from './credential-unusable.js';
import { storage } from './disk-full.js';
import { fieldErrors } from './fields-refused.js';
import { notPublished } from './flow-not-published.js';
import { interrupted } from './interrupted.js';
import { limits } from './limit-reached.js';
import { mailRefused } from './mail-refused.js';
import { modelRefused } from './model-refused.js';
import { modelUnreachable } from './model-unreachable.js';
import { nameUnknown } from './name-unresolved.js';
import { noBranch } from './no-branch-taken.js';
import { noValue } from './no-value.js';
import { notAServer } from './not-a-tool-server.js';
import { notApproved } from './not-approved.js';
import { claims } from './not-as-claimed.js';
import { credentialRefused } from './not-authorised.js';
import { nothingMatched } from './nothing-matched.js';
import { programFailed } from './program-failed.js';
import { resultCut } from './result-cut.js';
import { resultUnfit } from './result-unfit.js';
import { ruleNotKept } from './rule-not-kept.js';
import { ruleSupplies } from './rule-supplies-it.js';
import { scriptFailed } from './script-failed.js';
import { emptySearch } from './search-nearly-found.js';
import { serverUnreachable } from './server-unreachable.js';
import { stepFailed } from './step-failed.js';
import { stopped } from './stopped-on-purpose.js';
import { tableRefused } from './table-refused.js';
import { timedOut } from './timed-out.js';
import { toolError } from './tool-error.js';
import { toolGone } from './tool-gone.js';
import { toolHeld } from './tool-held.js';
import { toolInvented } from './tool-invented.js';
import { toolNotOffered } from './tool-not-offered.js';
import { toolsAlike } from './tools-alike.js';
import { noTools } from './tools-not-offered.js';
import { wrongType } from './wrong-type.js';

/** The special before the general: what one rule has explained, later ones leave. A new rule is one file and one line here. */
export const DIAGNOSIS_RULES: readonly DiagnosisRule[] = [
  ...[credentialRefused, callerCredential, secretMissing, notAServer, nameUnknown, programFailed, serverUnreachable],
  ...[
    timedOut,
    toolHeld,
    toolGone,
    toolNotOffered,
    toolInvented,
    toolsAlike,
    ruleNotKept,
    argumentRenamed,
    argumentMissing,
    ruleSupplies,
    fieldErrors,
    toolError,
  ],
  ...[argumentsRefused, notThere, httpRefused, modelRefused, modelUnreachable, cutOff, circles, limits],
  ...[
    noTools,
    claims,
    noValue,
    wrongType,
    noBranch,
    nothingMatched,
    emptySearch,
    resultUnfit,
    answerWithheld,
    contextLost,
    resultCut,
    mailRefused,
  ],
  ...[notApproved, notPublished, recursion, scriptFailed, tableRefused, storage, callInDoubt, interrupted, stopped],
  stepFailed,
];

/** What may only have come of something else in the same agent. */
export const CONSEQUENCES: readonly string[] = ['agent_in_circles', 'limit_reached'];
