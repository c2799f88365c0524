import { anchorOf, ProblemError } from '@pindro/contract';
import { catalogue } from '@pindro/core';
import { expect } from 'chai';
import { type Workspace, workspace } from '../support/workspace.js';

describe('the documentation', () => {
  let house: Workspace;
  before(async () => {
    house = await workspace();
  });
  after(() => house.close());

  it('is a list of pages in reading order, each with its first sentence', async () => {
    const { items } = await house.api.listDocs();
    expect(items.map(({ name }) => name)).to.include.members(['concepts', 'servers', 'agents', 'traces', 'cli', 'api']);
    expect(items[0]!.name).to.equal('concepts');
    for (const { title, about } of items) expect(about, title).to.match(/^[A-Z`].*[.:]$/);
  });

  it('has no link without a target', async () => {
    const { items } = await house.api.listDocs();
    const pages = new Map<string, string>();
    for (const { name } of items) pages.set(name, (await house.api.getDoc({ name })).text);
    const anchors = new Map(
      [...pages].map(([name, text]) => [
        name,
        new Set([...text.matchAll(/^#{2,3} (.+)$/gm)].map(([, title]) => anchorOf(title!))),
      ]),
    );
    let links = 0;
    for (const [name, text] of pages)
      for (const [, page, anchor] of text.matchAll(/\]\(([\w-]+)\.md(?:#([\w-]+))?\)/g)) {
        links++;
        expect(anchors.has(page!), `${name} leads to ${page}`).to.equal(true);
        if (anchor) expect(anchors.get(page!)!.has(anchor), `${name} leads to ${page}#${anchor}`).to.equal(true);
      }
    expect(links).to.be.greaterThan(10);
  });

  it('has a row for every error, which errors in the console lead to', async () => {
    const { text } = await house.api.getDoc({ name: 'errors' });
    const rows = [...text.matchAll(/^\| `([a-z0-9_]+)` \|/gm)].map(([, code]) => code);
    expect(rows).to.have.members(Object.keys(catalogue));
  });

  it('is found by the search, after the things of the workspace', async () => {
    await house.api.createTable({ body: { name: 'approvals', columns: { who: 'text' } } });
    const { items } = await house.api.search({ query: { words: 'approvals' } });
    expect(items[0]).to.include({ sort: 'table', name: 'approvals' });
    expect(items.find(({ sort }) => sort === 'doc')).to.deep.include({
      name: 'approvals',
      title: 'Approvals',
      about: 'Agents',
      in: 'agents',
    });
    const { items: inText } = await house.api.search({ query: { words: 'glacier zeppelin' } });
    expect(inText.filter(({ sort }) => sort === 'doc')).to.deep.equal([]);
    const { items: byText } = await house.api.search({ query: { words: 'may_grant validity' } });
    expect(byText.some(({ sort, in: page }) => sort === 'doc' && page === 'steps')).to.equal(true);
  });

  it('refuses a page that does not exist, with a suggestion', async () => {
    const error = (await house.api.getDoc({ name: 'agent' }).catch((thrown) => thrown)) as ProblemError;
    expect(error).to.be.instanceOf(ProblemError);
    expect(error.problem).to.include({ status: 404, code: 'not_found' });
    expect(error.problem.hint).to.contain('"agents"');
    const outside = (await house.api.getDoc({ name: '../package' }).catch((thrown) => thrown)) as ProblemError;
    expect(outside.problem.status).to.equal(404);
  });
});
