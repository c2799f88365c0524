/* The longest time for which the service answers nobody while a document of 10 MB is checked and imported. */
import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { startReady } from './process.mjs';

const PINDRO = fileURLToPath(new URL('../packages/cli/bin/pindro.js', import.meta.url));

/** Posts a file from a process of its own: whoever measures must not be busy sending. */
function post(url, headers, file) {
  const code = `const { readFileSync } = require('node:fs');
fetch(${JSON.stringify(url)}, { method: 'POST', headers: ${JSON.stringify(headers)}, body: readFileSync(${JSON.stringify(file)}) })
  .then(async (response) => console.log(response.status + ': ' + (await response.text()).slice(0, 120)))
  .catch((error) => console.log(String(error.cause ?? error)));`;
  return new Promise((resolve) => execFile(process.execPath, ['-e', code], (_error, out) => resolve(out.trim())));
}

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
  const file = join(data, 'body.json');
  writeFileSync(file, JSON.stringify({ document }));
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
    for (const path of ['/flows/check', '/flows'])
      say(`${path} answered ${await post(`${url}/api/v1${path}`, headers, file)}`);
  } finally {
    beating = false;
    await beat;
    await service.stop();
    rmSync(data, { recursive: true, force: true });
  }
  const ours = Math.round(longest);
  return { name: 'check-block', ours, reference: 50, unit: 'ms', ratio: 50 / ours };
}
