/* Writes the API reference of the packages that others use from code into their README files. */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { exportsOf, PACKAGES } from './exports.mjs';
import { root } from './prepare.mjs';

const BETWEEN = /(<!-- reference -->\n)[\s\S]*(<!-- \/reference -->)/;

/** The folder of a file below `src`, which is its subject; files beside it are of the package itself. */
const subjectOf = (name, file) => file.slice(`packages/${name}/src/`.length).split('/').slice(0, -1).join('/') || name;

/** An angle bracket outside of code would begin an element. */
const plain = (text) => text.replaceAll(/\{@link (\w+)\s*\}/g, '`$1`').replaceAll('<', '&lt;');

/** A description that continues its name, as in `text of the document`. */
const CONTINUES = /^(?:as|of|to|that|with|in|from|below|for|by|whose|which|where|under)$/;

function functionText({ name, about, parameters, tags }) {
  const given = tags.filter((tag) => tag.name === 'param').map(({ text }) => text.split(/\s+/));
  const names = parameters.map((one, index) => one ?? given[index]?.[0] ?? 'options');
  const lines = given.map(
    ([one, ...words]) => `- \`${one}\`${CONTINUES.test(words[0]) ? '' : ':'} ${plain(words.join(' '))}`,
  );
  const rest = tags.filter((tag) => tag.name === 'returns' || tag.name === 'throws');
  return [
    `#### \`${name}(${names.join(', ')})\``,
    plain(about),
    [...lines, ...rest.map((tag) => `- ${tag.name} ${plain(tag.text)}`)].join('\n'),
  ]
    .filter(Boolean)
    .join('\n\n');
}

function referenceOf(name) {
  const groups = new Map();
  for (const one of exportsOf(name)) {
    const subject = subjectOf(name, one.file);
    groups.set(subject, [...(groups.get(subject) ?? []), one]);
  }
  return [...groups]
    .sort(([a], [b]) => a.localeCompare(b))
    .map(([subject, all]) => {
      const others = all.filter((one) => !one.isFunction);
      const listed = others.map(
        (one) => `| \`${one.name}\` | ${plain(one.about).replaceAll('|', '\\|') || `See \`${one.file}\`.`} |`,
      );
      return [
        `### ${subject}`,
        ...all.filter((one) => one.isFunction).map(functionText),
        ...(listed.length > 0 ? [`| Type, class or value | |\n| --- | --- |\n${listed.join('\n')}`] : []),
      ].join('\n\n');
    })
    .join('\n\n');
}

export function writeCodeReference() {
  for (const name of PACKAGES) {
    const file = join(root, `packages/${name}/README.md`);
    const text = readFileSync(file, 'utf8');
    writeFileSync(
      file,
      text.replace(BETWEEN, (_, from, to) => `${from}\n${referenceOf(name)}\n\n${to}`),
    );
  }
}
