import type { ReviewRule } from '../suggestion.js';
import { choicesInProse, undescribedArgument, unknowableArgument } from './arguments.js';
import { longDescription, missingDescription, sameDescription, shortDescription } from './descriptions.js';
import { tooLong, tooMany, twins, unboundedResult } from './lists.js';
import { misleadingName, vagueName } from './names.js';
import { noResult } from './result.js';
import { leftOut, refusedSchema, toldInWords } from './schemas.js';

/** Rules of the review, in the order of their suggestions. A new rule is one line here. */
export const REVIEW_RULES: readonly ReviewRule[] = [
  leftOut,
  tooMany,
  tooLong,
  vagueName,
  misleadingName,
  missingDescription,
  sameDescription,
  twins,
  shortDescription,
  longDescription,
  undescribedArgument,
  choicesInProse,
  unknowableArgument,
  unboundedResult,
  noResult,
  refusedSchema,
  toldInWords,
];
