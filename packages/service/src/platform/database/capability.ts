import { join } from 'node:path';
import type { Capability } from '../capability.js';
import { type Database, openDatabase } from './open.js';

declare module '../capability.js' {
  interface Parts {
    /** What people set up. */
    config: Database;
    /** What happened. */
    record: Database;
  }
}

export const databaseCapability: Capability = {
  name: 'database',
  open: ({ settings, bus }) => {
    const config = openDatabase(join(settings.data, 'pindro.db'), 'config');
    bus.follow(config.door);
    return { config, record: openDatabase(join(settings.data, 'runs.db'), 'runs') };
  },
  close: ({ config, record }) => {
    config.door.close();
    record.door.close();
  },
};
