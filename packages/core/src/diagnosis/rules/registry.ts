import type { DiagnosisRule } from '../rule.js';
import { notThere } from './address/address-has-nothing.js';
import { httpRefused } from './address/address-refused.js';
import { callerCredential } from './address/caller-credential.js';
import { secretMissing } from './address/credential-unusable.js';
import { nameUnknown } from './address/name-unresolved.js';
import { notAServer } from './address/not-a-tool-server.js';
import { credentialRefused } from './address/not-authorised.js';
import { programFailed } from './address/program-failed.js';
import { serverUnreachable } from './address/server-unreachable.js';
import { circles } from './agent/agent-in-circles.js';
import { answerWithheld } from './agent/answer-withheld.js';
import { recursion } from './agent/calls-itself.js';
import { notApproved } from './agent/not-approved.js';
import { claims } from './agent/not-as-claimed.js';
import { emptySearch } from './agent/search-nearly-found.js';
import { toolInvented } from './agent/tool-invented.js';
import { toolNotOffered } from './agent/tool-not-offered.js';
import { toolsAlike } from './agent/tools-alike.js';
import { noTools } from './agent/tools-not-offered.js';
import { argumentMissing } from './arguments/argument-now-required.js';
import { argumentRenamed } from './arguments/argument-renamed.js';
import { argumentsRefused } from './arguments/arguments-refused.js';
import { fieldErrors } from './arguments/fields-refused.js';
import { ruleNotKept } from './arguments/rule-not-kept.js';
import { ruleSupplies } from './arguments/rule-supplies-it.js';
import { wrongType } from './arguments/wrong-type.js';
import { notPublished } from './flow/flow-not-published.js';
import { mailRefused } from './flow/mail-refused.js';
import { noBranch } from './flow/no-branch-taken.js';
import { noValue } from './flow/no-value.js';
import { nothingMatched } from './flow/nothing-matched.js';
import { scriptFailed } from './flow/script-failed.js';
import { stepFailed } from './flow/step-failed.js';
import { stopped } from './flow/stopped-on-purpose.js';
import { tableRefused } from './flow/table-refused.js';
import { cutOff } from './model/answer-cut-off.js';
import { contextLost } from './model/context-full.js';
import { modelRefused } from './model/model-refused.js';
import { modelUnreachable } from './model/model-unreachable.js';
import { storage } from './run/disk-full.js';
import { interrupted } from './run/interrupted.js';
import { limits } from './run/limit-reached.js';
import { timedOut } from './run/timed-out.js';
import { callInDoubt } from './tool/call-in-doubt.js';
import { resultCut } from './tool/result-cut.js';
import { resultUnfit } from './tool/result-unfit.js';
import { toolError } from './tool/tool-error.js';
import { toolGone } from './tool/tool-gone.js';
import { toolHeld } from './tool/tool-held.js';

/**
 * Diagnosis rules, specific ones first: later rules skip what an earlier rule has explained. A new rule is one file
 * and one line here.
 */
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
