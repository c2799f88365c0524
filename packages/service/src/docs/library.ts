import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { anchorOf, type DocPage } from '@pindro/contract';
import { fits } from '../platform/search.js';

/** Pages that the service serves, in reading order. Pages for contributors stay in the repository. */
const NAMES = [
  ...['concepts', 'first-flow', 'servers', 'agents', 'traces', 'production'],
  ...['cli', 'api', 'flow', 'steps', 'errors', 'findings', 'review', 'roles'],
];
const FOLDER = fileURLToPath(new URL('../../../../docs/', import.meta.url));

/** A section of a page: its heading, its anchor, and its text in lower case. */
export interface Section {
  page: string;
  title: string;
  anchor: string;
  text: string;
}

/** The documentation of this version: Markdown pages, read from disk when they are first needed. */
export class Library {
  #pages: Map<string, DocPage> | undefined;
  #sections: Section[] | undefined;

  constructor(private readonly folder = FOLDER) {}

  /** Returns all pages in reading order; empty if the documentation is not installed. */
  list(): DocPage[] {
    return [...this.#read().values()];
  }

  /** Returns a page by its name, such as `agents`, or undefined. */
  find(name: string): DocPage | undefined {
    return this.#read().get(name);
  }

  /** Returns sections whose heading or text contains all words, headings first. */
  search(words: string): Section[] {
    this.#sections ??= this.list().flatMap(sectionsOf);
    const looked = words.trim().toLowerCase();
    if (looked === '') return [];
    const named = this.#sections.filter(({ title }) => fits(looked, title));
    const inText = this.#sections.filter((one) => !named.includes(one) && fits(looked, one.title, one.text));
    return [...named, ...inText];
  }

  #read(): Map<string, DocPage> {
    if (this.#pages) return this.#pages;
    const pages = new Map<string, DocPage>();
    for (const name of NAMES) {
      const file = join(this.folder, `${name}.md`);
      if (!existsSync(file)) continue;
      const text = readFileSync(file, 'utf8').replace(/^_Generated from the code.*_\n+/m, '');
      const title = /^# (.+)$/m.exec(text)?.[1] ?? name;
      pages.set(name, { name, title, about: firstSentence(text), text });
    }
    this.#pages = pages;
    return pages;
  }
}

const firstSentence = (text: string): string => {
  const paragraph = text.split(/\n{2,}/).find((one) => one.trim() !== '' && !/^[#|_`!-]/.test(one.trim())) ?? '';
  return /^[\s\S]*?[.:](?=\s|$)/.exec(paragraph.trim())?.[0].replaceAll(/\s+/g, ' ') ?? '';
};

function sectionsOf({ name, title, text }: DocPage): Section[] {
  return text.split(/^(?=#{1,3} )/m).flatMap((part) => {
    const heading = /^#{1,3} (.+)$/m.exec(part)?.[1];
    if (!heading) return [];
    const anchor = heading === title ? '' : anchorOf(heading);
    return [{ page: name, title: heading.replaceAll('`', ''), anchor, text: part.toLowerCase() }];
  });
}
