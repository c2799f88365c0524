import resources from 'virtual:pindro-resources';
import { type Removal, type ResourceName, verbsOf } from '@pindro/contract/light';
import { api } from './api.js';

type Removed = Promise<{ removal: Removal }>;

/** What can be done with one sort of thing, alike for all. What has no name of its own cannot be renamed or copied. */
export interface Sort {
  /** What people call one. */
  word: string;
  /** Where the page of one stands. */
  page?(name: string): string;
  remove?(name: string, force: boolean): Removed;
  rename?(name: string, to: string): Promise<unknown>;
  copy?(name: string, to: string): Promise<unknown>;
  uses?(name: string): Promise<{ items: string[] }>;
  /** Files that it can be exported as. */
  exports?: { label: string; file(name: string): string; text(name: string): Promise<string> }[];
}

export type ThingType = ResourceName;

/** What the descriptor does not tell: files to export, and verbs whose routes take or return more than the common ones. */
const MORE: Partial<Record<ThingType, Partial<Sort>>> = {
  flow: {
    exports: [
      {
        label: 'Export document',
        file: (name) => `${name}.yaml`,
        text: async (name) => (await api.getFlow({ name })).text,
      },
      {
        label: 'Export bundle',
        file: (name) => `${name}.bundle.yaml`,
        text: async (name) => (await api.exportBundle({ name })).text,
      },
    ],
  },
  endpoint: { rename: (name, to) => api.renameEndpoint({ name, body: { to } }) },
  table: { copy: (name, to) => api.copyTable({ name, body: { to, rows: true } }) },
  key: { rename: (id, to) => api.updateKey({ id, body: { name: to } }) },
  label: {
    remove: async (name) => {
      const { flows } = await api.removeLabel({ name });
      return { removal: { id: '', what: 'label', name, by: '', removedAt: '', until: '', flows } as Removal };
    },
  },
};

/** The address of a thing's page, or of the list on which it is opened. */
export const addressOf = (sort: ThingType, name: string, parent = ''): string | undefined =>
  resources[sort].page?.replace('NAME', encodeURIComponent(name)).replace('PARENT', encodeURIComponent(parent));

function sortOf(type: ThingType): Sort {
  const resource = resources[type];
  const { rename, copy, uses, remove } = verbsOf(api, resource);
  // What is opened on its list has no page of its own.
  const hasPage = resource.page !== undefined && !resource.page.includes('?');
  return {
    word: resource.words,
    ...(hasPage && { page: (name) => addressOf(type, name) ?? '/' }),
    ...(rename && { rename: (name, to) => rename([name], to) }),
    ...(copy && { copy: (name, to) => copy([name], to) }),
    ...(uses && { uses: (name) => uses([name]) }),
    ...(remove && { remove: (name, force) => remove([name], force) }),
    ...MORE[type],
  };
}

const TYPES = Object.keys(resources) as ThingType[];
const SORTS = Object.fromEntries(TYPES.map((type) => [type, sortOf(type)])) as Record<ThingType, Sort>;

/** What can be done with a type of thing. */
export const thingType = (type: ThingType): Sort => SORTS[type];
