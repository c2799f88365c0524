import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';
import type { Plugin } from 'vite';

/** Below so many bytes, compressing saves no packet. */
const WORTH = 800;
const TEXT = /\.(?:js|css|html|svg|json)$/;

/** Puts a compressed copy beside each text file once it is built, so that nobody waits for it at run time. */
export function compressed(): Plugin {
  let folder = '';
  return {
    name: 'pindro-compressed',
    apply: 'build',
    configResolved: (config) => {
      folder = resolve(config.root, config.build.outDir);
    },
    closeBundle: () => {
      for (const file of readdirSync(folder, { recursive: true }).map(String)) {
        const path = join(folder, file);
        if (!TEXT.test(file) || statSync(path).size < WORTH) continue;
        const text = readFileSync(path);
        writeFileSync(`${path}.gz`, gzipSync(text, { level: 9 }));
        writeFileSync(`${path}.br`, brotliCompressSync(text, { params: { [constants.BROTLI_PARAM_QUALITY]: 11 } }));
      }
    },
  };
}
