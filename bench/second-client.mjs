/* What it takes to see how long others wait: one process that sends, and a client that asks again and again meanwhile. */
import { execFile } from 'node:child_process';

/** Posts a file some times from a process of its own: whoever measures must not be busy sending. @returns the last answer */
export function sendFile(url, headers, file, times = 1) {
  const code = `const body = require('node:fs').readFileSync(${JSON.stringify(file)});
(async () => { let told = '';
for (let n = 0; n < ${times}; n++) {
  const response = await fetch(${JSON.stringify(url)}, { method: 'POST', headers: ${JSON.stringify(headers)}, body });
  told = response.status + ': ' + (await response.text()).slice(0, 140); }
console.log(told); })().catch((error) => console.log(String(error.cause ?? error)));`;
  return new Promise((resolve) => execFile(process.execPath, ['-e', code], (_error, out) => resolve(out.trim())));
}

/** Asks again and again. `longest` tells the longest that an answer took since it was last asked for, in milliseconds. */
export function heartbeat(ask) {
  let longest = 0;
  let beating = true;
  const beats = (async () => {
    for (let n = 1; beating; n++) {
      const begun = performance.now();
      await ask(n);
      longest = Math.max(longest, performance.now() - begun);
      await new Promise((resolve) => setTimeout(resolve, 2));
    }
  })();
  return {
    longest() {
      const took = longest;
      longest = 0;
      return took;
    },
    async stop() {
      beating = false;
      await beats.catch(() => {});
    },
  };
}
