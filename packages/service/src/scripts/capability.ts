import type { Capability } from '../platform/capability.js';
import { ScriptPool } from './pool.js';

declare module '../platform/capability.js' {
  interface Parts {
    scripts: ScriptPool;
  }
}

export const scriptsCapability: Capability = {
  name: 'scripts',
  open: () => ({ scripts: new ScriptPool() }),
  close: ({ scripts }) => scripts.close(),
};
