/*
 * The longest time for which the service answers nobody while two documents are checked and imported: one as long as is
 * taken, and one of 10 MB, which is refused.
 */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { heartbeat, sendFile } from './second-client.mjs';
import { withService } from './service.mjs';

const BAR = 50;
/** A flow of so many steps of 2 KB each. */
const flow = (steps) =>
  `format: pindro/flow@1\nname: large\nsteps:\n${Array.from({ length: steps }, (_, i) => `  s${i}: { kind: text, with: { text: "${'x'.repeat(2000)}" } }`).join('\n')}\n`;

export const checkBlock = (say) =>
  withService(
    async ({ url, headers, data }) => {
      const file = join(data, 'body.json');
      const beat = heartbeat(() =>
        fetch(`${url}/api/v1/schemas/endpoint.json`).then((response) => response.arrayBuffer()),
      );
      let longest = 0;
      try {
        await new Promise((resolve) => setTimeout(resolve, 300));
        for (const steps of [1000, 4900]) {
          writeFileSync(file, JSON.stringify({ document: flow(steps) }));
          for (const path of ['/flows/check', '/flows']) {
            beat.longest();
            const told = await sendFile(`${url}/api/v1${path}`, headers, file);
            const took = beat.longest();
            longest = Math.max(longest, took);
            say(`${steps} steps to ${path}: ${Math.round(took)} ms, answered ${told}`);
          }
        }
      } finally {
        await beat.stop();
      }
      const ours = Math.round(longest);
      return { name: 'check-block', ours, reference: BAR, unit: 'ms', ratio: BAR / ours };
    },
    '--body-limit',
    '16m',
  );
