import type { JsonObject } from '@pindro/core';
import { fixWords, PindroError, type ProposedFix } from '@pindro/core';
import type { Parts } from '../platform/capability.js';
import { requireSame, setAt } from './set-at.js';

type Sources = Pick<Parts, 'flows' | 'publishFlow' | 'servers' | 'models' | 'credentials'>;

/** Applies the fix of a finding. @returns a description @throws cure_stale if the place has changed */
export async function applyFix(
  cure: ProposedFix,
  { flows, publishFlow, servers, models, credentials }: Sources,
): Promise<string> {
  switch (cure.do) {
    case 'change': {
      const { document, updatedAt } = flows.drafts.get(cure.flow);
      const changed = structuredClone(document) as JsonObject;
      setAt(changed, cure.at, cure.from, cure.to);
      await flows.drafts.saveDraft(cure.flow, changed, updatedAt);
      break;
    }
    case 'transport':
      requireSame(servers.summary(cure.server).speaks, cure.from, `transport of tool server "${cure.server}"`);
      await servers.change(cure.server, { anew: true });
      break;
    case 'accept':
      // Findings of earlier versions propose it; what a server says is accepted by whoever has read it.
      throw new PindroError('request_invalid', {
        why: `Review the change and accept it yourself: pindro server changes ${cure.server}`,
      });
    case 'form': {
      const { kind, header } = credentials.shape(cure.credential);
      requireSame({ kind, header }, cure.from, `form of credential "${cure.credential}"`);
      credentials.reform(cure.credential, cure.to);
      break;
    }
    case 'clean':
      credentials.clean(cure.credential);
      break;
    case 'credential': {
      const { credential } = cure.of === 'server' ? servers.summary(cure.name) : models.connection(cure.name);
      requireSame(credential, null, `credential of ${cure.name}`);
      if (cure.of === 'server') await servers.change(cure.name, { credential: cure.to });
      else await models.change(cure.name, { credential: cure.to });
      break;
    }
    case 'publish':
      requireSame(flows.drafts.get(cure.flow).live, null, `flow "${cure.flow}"`);
      await publishFlow(cure.flow, { note: 'Published because a call of it failed' });
      break;
    case 'model':
      requireSame(models.connection(cure.model).model, cure.from, `model of connection "${cure.model}"`);
      await models.change(cure.model, { model: cure.to });
  }
  return fixWords(cure);
}
