import { defineCapability } from '../platform/capability.js';
import { ScriptPool } from './pool.js';

declare module '../platform/capability.js' {
  interface Parts {
    scripts: ScriptPool;
  }
}

export const scriptsCapability = defineCapability({
  name: 'scripts',
  gives: ['scripts'],
  open: () => ({ scripts: new ScriptPool() }),
  close: ({ scripts }) => scripts.close(),
});
