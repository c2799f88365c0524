import { formWords } from './expected-credential-form.js';
import type { Place, ProposedFix } from './finding.js';

/**
 * Describes a place for people: the step and the field, or the name of the thing.
 * @param place of a finding or fix
 * @returns one phrase
 */
export function placeWords(place: Place): string {
  if (!('flow' in place)) {
    if ('server' in place) return `tool server ${place.server}`;
    if ('model' in place) return `model connection ${place.model}`;
    if ('endpoint' in place) return `endpoint ${place.endpoint}`;
    return 'credential' in place ? `credential ${place.credential}` : `table ${place.table}`;
  }
  const step = /^\/steps\/([^/]+)(\/.*|)$/s.exec(place.at);
  if (!step) return `flow ${place.flow}`;
  const inside = step[2] ? `, at ${step[2].slice(1).replaceAll('/', ' › ')}` : '';
  return `step ${step[1]} of flow ${place.flow}${inside}`;
}

const shown = (value: unknown): string => {
  if (value === null || value === undefined) return 'nothing';
  const text = typeof value === 'string' ? `"${value}"` : JSON.stringify(value);
  return text.length > 80 ? `${text.slice(0, 79)}…` : text;
};

/**
 * Describes a fix as a request: "change … from … to …".
 * @param cure proposed fix of a finding
 * @returns one sentence
 */
export function fixWords(cure: ProposedFix): string {
  switch (cure.do) {
    case 'change':
      return `change ${placeWords({ flow: cure.flow, at: cure.at })} from ${shown(cure.from)} to ${shown(cure.to)}`;
    case 'transport':
      return `use the transport ${cure.to} for tool server ${cure.server} instead of ${cure.from}`;
    case 'accept':
      return `accept the present version of ${cure.tools.join(', ')} of tool server ${cure.server}`;
    case 'form':
      return `send credential ${cure.credential} ${formWords(cure.to)}, not ${formWords(cure.from)}`;
    case 'clean':
      return `remove the extra characters from the secret of credential ${cure.credential}: ${cure.what}`;
    case 'credential':
      return `send credential ${cure.to} to ${cure.of === 'server' ? 'tool server' : 'model connection'} ${cure.name}`;
    case 'publish':
      return `publish flow ${cure.flow}`;
    case 'model':
      return `use the model ${shown(cure.to)} on model connection ${cure.model} instead of ${shown(cure.from)}`;
  }
}
