import type { FetchPort } from '@pindro/core';
import { ProgramPolicy } from '../../policy/programs.js';
import { defineCapability } from '../capability.js';
import { isLoopback } from '../gate.js';
import { fetchPort } from './fetch-port.js';
import { Outside } from './outside.js';
import { ReachPolicy } from './policy.js';

declare module '../capability.js' {
  interface Parts {
    outside: Outside;
    /** The core's way out to the web. */
    webFetch: FetchPort;
    /** Which programs of this machine may be run. */
    programs: ProgramPolicy;
  }
}

export const reachCapability = defineCapability({
  name: 'reach',
  needs: ['http'],
  gives: ['outside', 'webFetch', 'programs'],
  open: (parts) => {
    const { settings } = parts;
    const own = () =>
      [parts.http.url, settings.publicUrl].flatMap((text) => {
        const url = text ? new URL(text) : null;
        return url ? [{ port: Number(url.port || (url.protocol === 'https:' ? 443 : 80)), hosts: [url.hostname] }] : [];
      });
    const isAlone = isLoopback(settings.host) && !settings.publicUrl;
    const policy = new ReachPolicy({
      allowed: settings.reach,
      privateToo: isAlone,
      own,
      resolve: settings.resolve,
    });
    const outside = new Outside(policy, settings.proxy);
    return { outside, webFetch: fetchPort(outside), programs: new ProgramPolicy(settings.programs, isAlone) };
  },
  close: ({ outside }) => outside.close(),
});
