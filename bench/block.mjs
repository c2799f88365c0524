/* The longest time for which the service answers nobody while a document of 10 MB is checked and imported. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { startReady } from './process.mjs';

const PINDRO = fileURLToPath(new URL('../packages/cli/bin/pindro.js', import.meta.url));

export async function checkBlock(say) {
  const data = mkdtempSync(join(tmpdir(), 'pindro-bench-'));
  const service = await startReady([PINDRO, 'serve', '--json', '--port', '0', '--data', data, '--body-limit', '16m']);
  const { url, apiKey } = service.ready;
  const headers = { authorization: `Bearer ${apiKey}`, 'content-type': 'application/json' };
  const steps = Array.from(
    { length: 4900 },
    (_, i) => `  s${i}: { kind: text, with: { text: "${'x'.repeat(2000)}" } }`,
  );
  const document = `format: pindro/flow@1\nname: large\nsteps:\n${steps.join('\n')}\n`;
  const body = JSON.stringify({ document });
  let longest = 0;
  let beating = true;
  const beat = (async () => {
    while (beating) {
      const begun = performance.now();
      await fetch(`${url}/api/v1/schemas/endpoint.json`).then((response) => response.arrayBuffer());
      longest = Math.max(longest, performance.now() - begun);
      await new Promise((resolve) => setTimeout(resolve, 2));
    }
  })();
  try {
    await new Promise((resolve) => setTimeout(resolve, 300));
    longest = 0;
    for (const path of ['/flows/check', '/flows']) {
      const response = await fetch(`${url}/api/v1${path}`, { method: 'POST', headers, body });
      say(`${path} answered ${response.status}: ${(await response.text()).slice(0, 120)}`);
    }
  } finally {
    beating = false;
    await beat;
    await service.stop();
    rmSync(data, { recursive: true, force: true });
  }
  const ours = Math.round(longest);
  return { name: 'check-block', ours, reference: 50, unit: 'ms', ratio: 50 / ours };
}
