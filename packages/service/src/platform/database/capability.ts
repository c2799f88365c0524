import { join } from 'node:path';
import { defineCapability } from '../capability.js';
import { ServiceClock } from '../clock.js';
import { type Database, type Migrated, openDatabase } from './open.js';

declare module '../capability.js' {
  interface Parts {
    /** What people set up. */
    config: Database;
    /** What happened. */
    record: Database;
    /** The times that may be relied on although the wall clock jumps. */
    clocks: ServiceClock;
  }
}

export const databaseCapability = defineCapability({
  name: 'database',
  gives: ['config', 'record', 'clocks'],
  open: ({ settings, bus, log }) => {
    const migrated: Migrated = (file, copy) =>
      log.warn({ file, copy }, 'migrated from an earlier version; a copy of the previous state is next to it');
    const start = new Date();
    const config = openDatabase(join(settings.data, 'pindro.db'), 'config', migrated, start);
    bus.follow(config.driver);
    const record = openDatabase(join(settings.data, 'runs.db'), 'runs', migrated, start);
    const clocks = new ServiceClock(config, (text) => log.warn(text), settings.time);
    return { config, record, clocks };
  },
  listen: ({ clocks }) => clocks.start(),
  close: ({ config, record, clocks }) => {
    clocks.close();
    config.driver.close();
    record.driver.close();
  },
});
