import { type ProblemDetails, ProblemError } from '@pindro/contract';
import { expect } from 'chai';

/** The problem that some work at the API is refused with. */
export async function refusal(work: Promise<unknown>): Promise<ProblemDetails> {
  const error = await work.catch((thrown: unknown) => thrown);
  expect(error).to.be.instanceOf(ProblemError);
  return (error as ProblemError).problem;
}
