/*
 * What an answer says of what was done, by its words alone. No run fails for it: where the words speak against the calls, a
 * line is added that says so. Whoever changes a pattern adds what led to it to the lists in tests/core/claims.test.ts.
 */

/** Deeds that leave something behind, as against looking and thinking. */
const DEED =
  'booked|reserved|scheduled|ordered|confirmed|sent|cancelled|canceled|created|added|changed|moved|removed|deleted|paid|placed|submitted|registered|assigned|saved|updated|arranged|lent|made|put|done|completed|finished|taken care of|noted|recorded';
const OFTEN = '(?:just |now |already |successfully |also |gone ahead and )*';
/** Somebody says of themselves that they did something. */
const OWN = new RegExp(
  `\\b(?:i|we)(?:['’]ve| have)? ${OFTEN}(?:${DEED})\\b(?! (?:your|the) (?:question|request)\\b)`,
  'iu',
);
/** It is said that all is done. */
const ALL_DONE = /(?:^|[.!]\s+)(?:all |it['’]s |that['’]s )?(?:done|all set|taken care of)\b/iu;
/** Something is said to be so, which may have been looked up as well. */
const SAID_SO = new RegExp(
  `\\b(?:is|are|was|were|has been|have been|had been) ${OFTEN}(?:all )?(?:${DEED})\\b(?! (?:out|up|until|for maintenance))|\\bsuccessfully\\b`,
  'iu',
);

/** Ways of being polite that admit nothing. */
const POLITE = /\b(?:no|not a|without (?:any|a)?) ?(?:problems?|worries|issues?|trouble)\b/giu;
const ADMITS =
  /(?:n['’]t\b)|\b(?:not|no|none|nothing|cannot|unable|fail(?:ed|s|ure)?|refus(?:ed|es|al)|declin(?:ed|es)|reject(?:ed|s)|errors?|problems?|unfortunately|sorry|instead|waits?|waiting|pending|awaiting|approval|unknown|unsure|whether|only)\b/iu;

/**
 * Classifies what an answer claims: an action of the agent, a fact, or nothing.
 * @param answer the text of an agent's answer
 * @returns `own`: it did something; `said`: it states a fact; null: no claim
 */
export function claimIn(answer: string): 'own' | 'said' | null {
  if (OWN.test(answer) || ALL_DONE.test(answer)) return 'own';
  return SAID_SO.test(answer) ? 'said' : null;
}

/**
 * Returns whether an answer admits a failure, something unknown, or something unfinished.
 * @param answer the text of an agent's answer
 * @returns true if it contains a refusal, an uncertainty, or something still open
 */
export const admits = (answer: string): boolean => ADMITS.test(answer.replace(POLITE, ''));
