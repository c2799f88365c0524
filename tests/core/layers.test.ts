import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect } from 'chai';

const root = fileURLToPath(new URL('../../../', import.meta.url));
const { coreLayers, capabilities } = (await import(`${root}.dependency-cruiser.mjs`)) as {
  coreLayers: string[];
  capabilities: string[];
};
const architecture = readFileSync(`${root}docs/architecture.md`, 'utf8');
const folders = (path: string) =>
  readdirSync(`${root}${path}`, { withFileTypes: true })
    .filter((entry) => entry.isDirectory())
    .map(({ name }) => name);

describe('the architecture page', () => {
  it('names the layers of core in the order that imports must keep, and there are no others', () => {
    const paragraph = /Layers of `core`, from the top down:([\s\S]*?)\n\n/.exec(architecture)![1]!;
    const named = [...paragraph.matchAll(/`([a-z]+)\/`/g)].map(([, name]) => name);
    expect(named).to.deep.equal(coreLayers);
    expect(folders('packages/core/src').sort()).to.deep.equal([...coreLayers].sort());
  });

  it('has a line for each capability, and each is a folder', () => {
    const block = /```\n\s+open: creates parts([\s\S]*?)```/.exec(architecture)![1]!;
    const missing = capabilities.filter((name) => !new RegExp(`(^|, )${name}\\b`, 'm').test(block));
    expect(missing).to.deep.equal([]);
    const base = ['main', 'platform', 'policy'];
    expect(folders('packages/service/src').sort()).to.deep.equal([...capabilities, ...base].sort());
  });

  it('names files that exist', () => {
    const below = (folder: string) =>
      readdirSync(`${root}${folder}`, { recursive: true })
        .map((file) => `${folder}/${file}`)
        .filter((file) => !/\/(?:node_modules|dist)\//.test(file));
    const all = [...below('packages'), ...below('tests')];
    // Within a package, `src` is left out.
    const files = [...all, ...all.map((file) => file.replace('/src/', '/'))];
    const named = [...architecture.matchAll(/`([\w.-]+\/[\w./-]+\.(?:ts|svelte|css))`/g)].map(([, file]) => file!);
    expect(named.length).to.be.above(30);
    expect(named.filter((name) => !files.some((file) => file === name || file.endsWith(`/${name}`)))).to.deep.equal([]);
  });
});
