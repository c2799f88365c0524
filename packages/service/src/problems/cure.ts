import { type Cure, cureWords, isObject, type Json, PindroError } from '@pindro/core';
import type { Parts } from '../platform/capability.js';

type Sources = Pick<Parts, 'flows' | 'servers' | 'models'>;

/**
 * Makes the change that a finding proposes. @returns what was done, in words
 * @throws cure_stale where what is to be changed is not any more what it was
 */
export async function applyCure(cure: Cure, { flows, servers, models }: Sources, by: string): Promise<string> {
  switch (cure.do) {
    case 'change': {
      const { document, updatedAt } = flows.get(cure.flow);
      const changed = structuredClone(document) as unknown as Json;
      setAt(changed, cure.at, cure.from, cure.to);
      await flows.saveDraft(cure.flow, changed as never, updatedAt);
      break;
    }
    case 'transport':
      requireSame(servers.summary(cure.server).speaks, cure.from, `transport of tool server "${cure.server}"`);
      // Attached anew at its address it is asked in every way that is known.
      await servers.change(cure.server, { url: servers.summary(cure.server).url });
      break;
    case 'accept':
      servers.accept(cure.server, by, cure.tools);
      break;
    case 'publish':
      await flows.look([flows.get(cure.flow)]);
      flows.publish(cure.flow, 'Published because a call of it failed');
      break;
    case 'model':
      requireSame(models.connection(cure.model).model, cure.from, `model of connection "${cure.model}"`);
      await models.change(cure.model, { model: cure.to });
  }
  return cureWords(cure);
}

/** Sets what stands at a JSON Pointer; what was seen there must still be there. */
function setAt(document: Json, pointer: string, from: Json, to: Json): void {
  const parts = pointer
    .split('/')
    .slice(1)
    .map((part) => part.replaceAll('~1', '/').replaceAll('~0', '~'));
  const last = parts.pop()!;
  let holder: Json | undefined = document;
  for (const part of parts)
    holder = Array.isArray(holder) ? holder[Number(part)] : isObject(holder) ? holder[part] : undefined;
  if (Array.isArray(holder)) {
    requireSame(holder[Number(last)] ?? null, from, pointer);
    holder[Number(last)] = to;
  } else if (isObject(holder)) {
    requireSame(Object.hasOwn(holder, last) ? holder[last]! : null, from, pointer);
    holder[last] = to;
  } else throw stale(pointer);
}

function requireSame(now: Json, then: Json, what: string): void {
  if (JSON.stringify(now) !== JSON.stringify(then)) throw stale(what);
}
const stale = (what: string) => new PindroError('cure_stale', { what }, { at: what.startsWith('/') ? what : '' });
