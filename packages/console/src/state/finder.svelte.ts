import resources from 'virtual:pindro-resources';
import Bolt from '@lucide/svelte/icons/zap';
import type { Hit, ProblemDetails } from '@pindro/contract/light';
import { type IconComponent, PLACES, placeOf } from '../parts/shell/places.js';
import { actions } from './actions.svelte.js';
import { api, problemOf } from './api.js';
import { words } from './format.js';
import { preferences } from './preferences.svelte.js';
import { router } from './router.svelte.js';
import { addressOf, type ThingType } from './things.js';

export interface Found {
  key: string;
  title: string;
  about: string;
  sort: string;
  icon: IconComponent;
  take(): void;
}

const WAIT = 120;

/** What the search window shows: actions and pages at once, and things of the workspace as the service finds them. */
export class Finder {
  words = $state('');
  at = $state(0);
  busy = $state(false);
  problem = $state.raw<ProblemDetails | null>(null);
  #hits = $state.raw<Found[]>([]);

  constructor(private readonly onKeys: () => void) {
    $effect(() => this.#look(this.words.trim()));
  }

  readonly shown = $derived.by((): Found[] => {
    const looked = this.words.trim().toLowerCase();
    if (looked === '') return [...this.#recent(), ...this.#own()];
    return [...this.#own().filter(({ title }) => title.toLowerCase().includes(looked)), ...this.#hits];
  });
  get current(): Found | undefined {
    return this.shown[this.at];
  }

  move(by: number): void {
    const count = this.shown.length;
    if (count > 0) this.at = (this.at + by + count) % count;
  }

  #look(looked: string): (() => void) | undefined {
    this.at = 0;
    if (looked === '') {
      this.#hits = [];
      return undefined;
    }
    this.busy = true;
    const timer = setTimeout(async () => {
      try {
        const { items } = await api.search({ query: { words: looked } });
        if (looked === this.words.trim()) this.#hits = items.map(found);
        this.problem = null;
      } catch (error) {
        this.problem = problemOf(error);
      }
      this.busy = false;
    }, WAIT);
    return () => clearTimeout(timer);
  }

  #recent(): Found[] {
    return preferences.recent
      .filter((to) => to !== router.path)
      .slice(0, 6)
      .map((to) => {
        const place = placeOf(to);
        const rest = to.slice(place.to.length).split('/').filter(Boolean)[0];
        return {
          key: `recent ${to}`,
          title: rest ? words(decodeURIComponent(rest)) : place.label,
          about: '',
          sort: 'recent',
          icon: place.icon,
          take: () => router.go(to),
        };
      });
  }

  #own(): Found[] {
    const doing = actions.list.map(
      ({ title, run }): Found => ({ key: `do ${title}`, title, about: '', sort: 'do', icon: Bolt, take: run }),
    );
    const pages = PLACES.map(
      ({ to, label, icon }): Found => ({
        ...{ key: `page ${to}`, title: label, about: '', sort: 'page', icon },
        take: () => router.go(to),
      }),
    );
    const keys = {
      key: 'shortcuts',
      title: 'Show the shortcuts',
      about: '',
      sort: 'do',
      icon: Bolt,
      take: this.onKeys,
    };
    return [...doing, ...pages, keys];
  }
}

type Part = Exclude<Hit['sort'], ThingType>;

/** Where that is seen which is no resource, and the page whose icon it has. */
const PARTS: Record<Part, { page: string; to(hit: Hit): string }> = {
  step: { page: '/flows', to: ({ name, in: flow }) => `/flows/${flow}?step=${name}` },
  tool: { page: '/servers', to: ({ name, in: server }) => `/servers/${server}?tool=${encodeURIComponent(name)}` },
  run: { page: '/runs', to: ({ name }) => `/runs/${name}` },
  doc: { page: '/docs', to: ({ name, in: page }) => `/docs/${page}${name ? `#${name}` : ''}` },
};
const isPart = (sort: Hit['sort']): sort is Part => Object.hasOwn(PARTS, sort);

function found(hit: Hit): Found {
  const { sort } = hit;
  const { page, to } = isPart(sort)
    ? { page: PARTS[sort].page, to: PARTS[sort].to(hit) }
    : { page: resources[sort].list, to: addressOf(sort, hit.name, hit.in ?? '') ?? '/' };
  const about = [hit.in && `in ${words(hit.in)}`, hit.about].filter(Boolean).join(': ');
  return {
    ...{ key: `${sort} ${hit.in} ${hit.name}`, title: hit.title, about, sort },
    icon: PLACES.find((place) => place.to === page)!.icon,
    take: () => router.go(to),
  };
}
