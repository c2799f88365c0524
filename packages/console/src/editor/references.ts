import { api } from '../state/api.js';

/** Fields that name something of the workspace, and where its names come from. */
const SOURCES: Record<string, { what: string; names(): Promise<string[]> }> = {
  table: { what: 'table', names: async () => (await api.listTables()).items.map((one) => one.name) },
  flow: { what: 'flow', names: async () => (await api.listFlows()).items.map((one) => one.name) },
  server: { what: 'tool server', names: async () => (await api.listServers()).items.map((one) => one.name) },
  model: { what: 'model connection', names: async () => (await api.listModels()).items.map((one) => one.name) },
  credential: { what: 'credential', names: async () => (await api.listCredentials()).items.map((one) => one.name) },
};

export const isReference = (field: string) => field in SOURCES;
export const wordFor = (field: string) => SOURCES[field]?.what ?? field;
export const namesFor = (field: string) => SOURCES[field]!.names();
/** Kinds of things that can be made right where they are needed. */
export const canMake = (field: string) => field === 'credential' || field === 'model' || field === 'table';
