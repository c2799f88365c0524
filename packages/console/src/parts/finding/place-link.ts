import { type Finding, placeWords } from '@pindro/core/browser';

type Place = NonNullable<Finding['place']>;

/** Where a place is shown, and what it is called. */
export function linkTo(place: Place): { to: string; label: string } {
  const label = placeWords(place);
  if (!('flow' in place)) {
    if ('server' in place) return { to: `/servers/${place.server}`, label };
    if ('model' in place) return { to: `/models?open=${place.model}`, label };
    if ('endpoint' in place) return { to: `/endpoints/${place.endpoint}`, label };
    return 'credential' in place
      ? { to: `/credentials?open=${place.credential}`, label }
      : { to: `/tables/${place.table}`, label };
  }
  const step = /^\/steps\/([^/]+)/.exec(place.at)?.[1];
  return { to: `/flows/${place.flow}${step ? `?step=${step}` : ''}`, label };
}
