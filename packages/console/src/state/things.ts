import type { Removal } from '@pindro/contract/light';
import { api } from './api.js';

type Removed = Promise<{ removal: Removal }>;

/** What can be done with one sort of thing, alike for all. What has no name of its own cannot be renamed or copied. */
export interface Sort {
  /** What people call one. */
  word: string;
  /** Where the page of one stands. */
  page?(name: string): string;
  remove(name: string, force: boolean): Removed;
  rename?(name: string, to: string): Promise<unknown>;
  copy?(name: string, to: string): Promise<unknown>;
  uses?(name: string): Promise<{ items: string[] }>;
  /** Files that it can be exported as. */
  exports?: { label: string; file(name: string): string; text(name: string): Promise<string> }[];
}

const query = (force: boolean) => ({ query: { force: force ? ('true' as const) : ('false' as const) } });

/** Everything that people make, with its verbs; a new sort is one entry here. */
export const THINGS = {
  flow: {
    word: 'flow',
    page: (name) => `/flows/${name}`,
    remove: (name, force) => api.removeFlow({ name, ...query(force) }),
    rename: (name, to) => api.renameFlow({ name, body: { to } }),
    copy: (name, to) => api.copyFlow({ name, body: { to } }),
    uses: (name) => api.flowUses({ name }),
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
  endpoint: {
    word: 'endpoint',
    page: (name) => `/endpoints/${name}`,
    remove: (name, force) => api.removeEndpoint({ name, ...query(force) }),
    rename: (name, to) => api.renameEndpoint({ name, body: { to } }),
    copy: (name, to) => api.copyEndpoint({ name, body: { to } }),
    uses: (name) => api.endpointUses({ name }),
  },
  server: {
    word: 'tool server',
    page: (name) => `/servers/${name}`,
    remove: (name, force) => api.detachServer({ name, ...query(force) }),
    rename: (name, to) => api.renameServer({ name, body: { to } }),
    copy: (name, to) => api.copyServer({ name, body: { to } }),
    uses: (name) => api.serverUses({ name }),
  },
  model: {
    word: 'model connection',
    remove: (name, force) => api.removeModel({ name, ...query(force) }),
    rename: (name, to) => api.renameModel({ name, body: { to } }),
    copy: (name, to) => api.copyModel({ name, body: { to } }),
    uses: (name) => api.modelUses({ name }),
  },
  credential: {
    word: 'credential',
    remove: (name, force) => api.removeCredential({ name, ...query(force) }),
    rename: (name, to) => api.renameCredential({ name, body: { to } }),
    copy: (name, to) => api.copyCredential({ name, body: { to } }),
    uses: (name) => api.credentialUses({ name }),
  },
  table: {
    word: 'table',
    page: (name) => `/tables/${name}`,
    remove: (name, force) => api.removeTable({ name, ...query(force) }),
    rename: (name, to) => api.renameTable({ name, body: { to } }),
    copy: (name, to) => api.copyTable({ name, body: { to, rows: true } }),
    uses: (name) => api.tableUses({ name }),
  },
  key: {
    word: 'key',
    remove: (id, force) => api.removeKey({ id, ...query(force) }),
    rename: (id, to) => api.updateKey({ id, body: { name: to } }),
  },
  entry: {
    word: 'entry point',
    remove: (id, force) => api.removeEntry({ id, ...query(force) }),
  },
  person: {
    word: 'person',
    remove: (name, force) => api.removePerson({ name, ...query(force) }),
    rename: (name, to) => api.renamePerson({ name, body: { to } }),
  },
  document: {
    word: 'OpenAPI document',
    remove: (name, force) => api.removeDocument({ name, ...query(force) }),
    rename: (name, to) => api.renameDocument({ name, body: { to } }),
  },
  label: {
    word: 'label',
    remove: async (name) => {
      const { flows } = await api.removeLabel({ name });
      return { removal: { id: '', what: 'label', name, by: '', removedAt: '', until: '', flows } as Removal };
    },
    rename: (name, to) => api.renameLabel({ name, body: { to } }),
  },
} satisfies Record<string, Sort>;

export type ThingType = keyof typeof THINGS;
export const thingType = (sort: ThingType): Sort => THINGS[sort];
