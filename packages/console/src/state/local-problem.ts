import type { ProblemDetails } from '@pindro/contract/light';

/** Returns a problem that the console itself found, in the form of one from the service. */
export const localProblem = (
  detail: string,
  hint = '',
  more: { code?: string; mistakes?: ProblemDetails['mistakes'] } = {},
): ProblemDetails => ({ type: 'about:blank', title: 'Problem', status: 0, code: '', detail, hint, ...more });
