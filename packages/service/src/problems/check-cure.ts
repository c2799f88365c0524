import { asPindroError, type Cure } from '@pindro/core';
import type { Parts } from '../platform/capability.js';

type Sources = Pick<Parts, 'servers' | 'models' | 'credentials'>;

export interface CureCheck {
  /** Whether everybody who was asked accepts the change. */
  fine: boolean;
  /** What they answered, in words. */
  words: string;
  /** Whether the credential was refused again. */
  refused: boolean;
}

/**
 * Asks the tool servers and model connections that a fix concerns whether they accept the change.
 * @returns null where nobody can be asked without side effects
 */
export async function checkCure(cure: Cure, sources: Sources): Promise<CureCheck | null> {
  const answers = await Promise.all([
    ...concerned(cure, 'server', sources).map((name) =>
      asked(`tool server "${name}"`, () => sources.servers.refresh(name)),
    ),
    ...concerned(cure, 'model', sources).map((name) =>
      asked(`model connection "${name}"`, () => sources.models.test(name)),
    ),
  ]);
  if (answers.length === 0) return null;
  return {
    fine: answers.every(({ fine }) => fine),
    words: answers.map(({ words }) => words).join('; '),
    refused: answers.some(({ refused }) => refused),
  };
}

/** Names of the tool servers or model connections that a change reaches. */
function concerned(cure: Cure, what: 'server' | 'model', { servers, models }: Sources): string[] {
  if (cure.do === 'transport') return what === 'server' ? [cure.server] : [];
  if (cure.do === 'model') return what === 'model' ? [cure.model] : [];
  if (cure.do === 'credential') return cure.of === what ? [cure.name] : [];
  if (cure.do !== 'clean' && cure.do !== 'form') return [];
  const { credential } = cure;
  if (what === 'server') return servers.going(credential).filter((name) => servers.summary(name).state !== 'off');
  const used = models.list().filter((one) => one.credential === credential || one.keys.includes(credential));
  return used.map(({ name }) => name);
}

async function asked(whom: string, ask: () => Promise<unknown>): Promise<CureCheck> {
  try {
    await ask();
    return { fine: true, words: `${whom} accepts it`, refused: false };
  } catch (error) {
    const { code, message, details } = asPindroError(error);
    const refused = code === 'server_wants_key' || (code === 'model_refused' && details?.kind === 'key');
    return { fine: false, words: message, refused };
  }
}
