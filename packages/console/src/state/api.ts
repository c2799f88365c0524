import addresses from 'virtual:pindro-addresses';
import { clientOf, type ProblemDetails, ProblemError, UnreachableError } from '@pindro/contract/light';
import { localProblem } from './local-problem.js';

/** The API at the page's own address, with the session's cookie. */
export const api = clientOf(addresses, { url: '' });

const UNREACHABLE = { code: 'unreachable' };

/** Converts any error to a problem to display. */
export function problemOf(error: unknown): ProblemDetails {
  if (error instanceof ProblemError) return error.problem;
  const lost = error instanceof UnreachableError;
  return lost
    ? localProblem(
        'The service does not respond',
        'Check that it is running. This page continues automatically.',
        UNREACHABLE,
      )
    : localProblem(error instanceof Error ? error.message : String(error), 'Reload the page and retry.', UNREACHABLE);
}

/** Signs in for the cookie that everything else goes with. @throws ProblemError */
export async function signIn(name: string, password: string): Promise<void> {
  const response = await fetch('/sign-in', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ name, password }),
  });
  if (!response.ok) throw new ProblemError((await response.json()) as ProblemDetails);
}
