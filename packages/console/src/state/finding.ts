import { router } from './router.svelte.js';

/** Whether something fits the words in the address; all of them, whatever their case. Reactive. */
export function fits(...texts: (string | null | undefined)[]): boolean {
  const looked = (router.query.get('find') ?? '').toLowerCase().split(/\s+/);
  const all = texts.join(' ').toLowerCase();
  return looked.every((word) => all.includes(word));
}
