import type { ToolChoice } from '@pindro/contract/light';
import { api } from '../state/api.js';
import { Resource } from '../state/resource.svelte.js';

export interface Choice extends ToolChoice {
  id: string;
}
/** Number of displayed matches. */
export const MOST_SHOWN = 100;

/** All tools there are to choose among, and those among them that fit some words. */
export class Choices {
  readonly resource: Resource<Choice[]>;
  words = $state('');
  /** What is looked through, once for all that is typed. */
  readonly #texts = $derived.by(() => this.all.map((one) => haystack(one)));

  /** Must be made while a component is set up. */
  constructor() {
    this.resource = new Resource(async () => {
      const { items } = await api.listTools();
      return items.map((one) => ({ ...one, id: `${one.from} ${one.source} ${one.tool}` }));
    }, ['server', 'endpoint', 'flow']);
  }

  get all(): Choice[] {
    return this.resource.value ?? [];
  }
  readonly fitting = $derived.by(() => this.#fitting());

  #fitting(): Choice[] {
    const wanted = this.words.toLowerCase().split(/\s+/).filter(Boolean);
    if (wanted.length === 0) return this.all;
    return this.all.filter((_, index) => wanted.every((word) => this.#texts[index]!.includes(word)));
  }

  /** Names of the tools of a source. */
  of(from: ToolChoice['from'], source: string): Choice[] {
    return this.all.filter((one) => one.from === from && one.source === source);
  }
}

const haystack = ({ from, source, tool, title, description, note }: ToolChoice) =>
  `${from} ${source} ${tool} ${title} ${description} ${note}`.toLowerCase();
