import { asPindroError, type ProposedFix } from '@pindro/core';
import type { Parts } from '../platform/capability.js';

type Sources = Pick<Parts, 'servers' | 'models' | 'credentials'>;

export interface FixCheck {
  /** Whether everybody who was asked accepts the change. */
  fine: boolean;
  /** Their response, as text. */
  words: string;
  /** Whether the change is refused by somebody who did not refuse before, or refused and accepted by nobody. */
  worse: boolean;
}

/**
 * Asks the tool servers and model connections that a fix concerns whether they accept the change.
 * @param refusing tool servers that refused their credential before the change
 * @returns null where nobody can be asked without side effects
 */
export async function checkFix(
  cure: ProposedFix,
  sources: Sources,
  refusing: readonly string[],
): Promise<FixCheck | null> {
  const answers = await Promise.all([
    ...concerned(cure, 'server', sources).map((name) =>
      asked(`tool server "${name}"`, name, () => sources.servers.refresh(name)),
    ),
    ...concerned(cure, 'model', sources).map((name) =>
      asked(`model connection "${name}"`, null, () => sources.models.test(name)),
    ),
  ]);
  if (answers.length === 0) return null;
  return {
    fine: answers.every(({ fine }) => fine),
    words: answers.map(({ words }) => words).join('; '),
    worse:
      answers.some(({ name, refused }) => refused && name !== null && !refusing.includes(name)) ||
      (answers.some(({ refused }) => refused) && !answers.some(({ fine }) => fine)),
  };
}

/** Names of the tool servers or model connections that a change reaches. */
function concerned(cure: ProposedFix, what: 'server' | 'model', { servers, models }: Sources): string[] {
  if (cure.do === 'transport') return what === 'server' ? [cure.server] : [];
  if (cure.do === 'model') return what === 'model' ? [cure.model] : [];
  if (cure.do === 'credential') return cure.of === what ? [cure.name] : [];
  if (cure.do !== 'clean' && cure.do !== 'form') return [];
  const { credential } = cure;
  if (what === 'server')
    return servers.repository.using(credential).filter((name) => servers.summary(name).state !== 'off');
  const used = models.list().filter((one) => one.credential === credential || one.keys.includes(credential));
  return used.map(({ name }) => name);
}

interface Answer {
  /** The tool server; null for a model. */
  name: string | null;
  fine: boolean;
  words: string;
  refused: boolean;
}

async function asked(whom: string, name: string | null, ask: () => Promise<unknown>): Promise<Answer> {
  try {
    await ask();
    return { name, fine: true, words: `${whom} accepts it`, refused: false };
  } catch (error) {
    const { code, message, details } = asPindroError(error);
    const refused = code === 'server_wants_key' || (code === 'model_refused' && details?.kind === 'key');
    return { name, fine: false, words: message, refused };
  }
}
