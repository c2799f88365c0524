/*
 * The longest block of the service's event loop while two documents are checked and imported: one as long as is
 * taken, and one of 10 MB, which is refused.
 */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { watched } from './loop.mjs';
import { sendFile } from './second-client.mjs';
import { withServiceOf } from './service.mjs';

const BAR = 50;
/** A flow of so many steps of 2 KB each. */
const flow = (steps) =>
  `format: pindro/flow@1\nname: large\nsteps:\n${Array.from({ length: steps }, (_, i) => `  s${i}: { kind: text, with: { text: "${'x'.repeat(2000)}" } }`).join('\n')}\n`;

export const checkBlock = (say) => {
  const loop = watched();
  const measure = async ({ url, headers, data, pid }) => {
    const file = join(data, 'body.json');
    let longest = 0;
    await new Promise((resolve) => setTimeout(resolve, 500));
    for (const steps of [1000, 4900]) {
      writeFileSync(file, JSON.stringify({ document: flow(steps) }));
      for (const path of ['/flows/check', '/flows']) {
        await loop.longest(pid);
        const told = await sendFile(`${url}/api/v1${path}`, headers, file);
        const took = await loop.longest(pid);
        longest = Math.max(longest, took);
        say(`${steps} steps to ${path}: ${Math.round(took)} ms, answered ${told}`);
      }
    }
    const ours = Math.round(longest);
    return { name: 'check-block', ours, reference: BAR, unit: 'ms', ratio: BAR / ours };
  };
  return withServiceOf(loop.node, measure, '--body-limit', '16m').finally(loop.close);
};
