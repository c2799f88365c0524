import { api } from '../state/api.js';

/** Things of the workspace that a field may name, and where their names come from. */
const SOURCES: Record<string, { what: string; names(): Promise<string[]> }> = {
  table: { what: 'table', names: async () => (await api.listTables()).items.map((one) => one.name) },
  flow: { what: 'flow', names: async () => (await api.listFlows()).items.map((one) => one.name) },
  server: { what: 'tool server', names: async () => (await api.listServers()).items.map((one) => one.name) },
  endpoint: { what: 'endpoint', names: async () => (await api.listEndpoints()).items.map((one) => one.name) },
  model: { what: 'model connection', names: async () => (await api.listModels()).items.map((one) => one.name) },
  credential: { what: 'credential', names: async () => (await api.listCredentials()).items.map((one) => one.name) },
};

export const wordFor = (sort: string) => SOURCES[sort]?.what ?? sort;
export const namesFor = (sort: string) => SOURCES[sort]!.names();
/** Kinds of things that can be made right where they are needed. */
export const canMake = (sort: string) => sort === 'credential' || sort === 'model' || sort === 'table';
