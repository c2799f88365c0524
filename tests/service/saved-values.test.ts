import { expect } from 'chai';
import { pindro } from '../support/process.js';
import { refusal } from '../support/refusal.js';
import { type Workspace, workspace } from '../support/workspace.js';

describe('a resource that is a name with fields', () => {
  let house: Workspace;
  beforeEach(async () => {
    house = await workspace();
  });
  afterEach(() => house.close());

  it('is saved, shown, replaced, listed and searched', async () => {
    const { api } = house;
    const saved = await api.saveView({ name: 'Loads last week', body: { groupBy: 'tool', hours: 168 } });
    expect(saved).to.include({ name: 'Loads last week', by: 'test' });
    expect(await api.getView({ name: 'Loads last week' })).to.deep.equal(saved);
    await api.saveView({ name: 'Loads last week', body: { hours: 24 } });
    const { items } = await api.listViews({ query: { search: 'LOADS' } });
    expect(items.map(({ name, hours }) => [name, hours])).to.deep.equal([['Loads last week', 24]]);
    expect((await api.listViews({ query: { search: 'lifts' } })).items).to.deep.equal([]);
    const hits = (await api.search({ query: { words: 'loads' } })).items;
    expect(hits).to.deep.include({
      ...{ sort: 'view', name: 'Loads last week', title: 'Loads last week', about: 'view of metrics', in: null },
    });
  });

  it('is renamed, with the old name leading to it, copied, removed and restored', async () => {
    const { api } = house;
    await api.saveView({ name: 'daily', body: { groupBy: 'caller' } });
    await api.renameView({ name: 'daily', body: { to: 'Callers' } });
    expect((await api.getView({ name: 'daily' })).name).to.equal('Callers');
    await api.copyView({ name: 'daily', body: { to: 'Callers too' } });
    const taken = await refusal(api.copyView({ name: 'Callers', body: { to: 'Callers too' } }));
    expect(taken.code).to.equal('already_there');
    const { removal } = await api.removeView({ name: 'Callers' });
    expect((await api.listViews()).items.map(({ name }) => name)).to.deep.equal(['Callers too']);
    const lost = await refusal(api.getView({ name: 'Callers' }));
    expect([lost.code, lost.detail]).to.deep.equal(['not_found', 'There is no view of metrics named "Callers"']);
    await api.restoreRemoved({ id: removal.id });
    expect((await api.getView({ name: 'Callers' })).by).to.equal('test');
  });

  it('refuses fields and names that do not fit, and says where', async () => {
    const { api } = house;
    for (const [body, why] of [
      [{ hours: 0 }, /hours/],
      [{ groupBy: 'moon' }, /groupBy/],
      [{ colour: 'red' }, /colour/],
    ] as const) {
      const problem = await refusal(api.saveView({ name: 'one', body: body as object }));
      expect([problem.code, why.test(problem.detail)], problem.detail).to.deep.equal(['request_invalid', true]);
    }
    for (const name of [' padded', 'x'.repeat(61), 'line\nbreak']) {
      const problem = await refusal(api.saveView({ name, body: {} }));
      expect(problem.detail).to.include('must have 1 to 60 characters');
    }
    const query = { colour: 'red' };
    expect((await refusal(api.saveFilter({ name: 'red', body: { query } }))).code).to.equal('request_invalid');
    for (let count = 0; count < 200; count++) await api.saveView({ name: `view ${count}`, body: {} });
    const full = await refusal(api.saveView({ name: 'one more', body: {} }));
    expect(full.detail).to.include('There are 200 views, the limit');
    // One that is there is still replaced.
    await api.saveView({ name: 'view 7', body: { hours: 7 } });
  });

  it('travels with a workspace: what is here stays unless it is overwritten', async () => {
    const { api } = house;
    await api.saveView({ name: 'Loads', body: { groupBy: 'tool' } });
    await api.saveFilter({ name: 'Failed', body: { query: { state: 'failed' } } });
    const { files } = await api.exportWorkspace();
    expect(files['views.yaml']).to.equal(
      ['format: pindro/views@1', 'views:', '  - groupBy: tool', '    hours: 24', '    name: Loads', ''].join('\n'),
    );
    const other = await workspace();
    await other.api.saveView({ name: 'Loads', body: { groupBy: 'model' } });
    const told = { files, overwrite: false, drafts: false };
    expect((await other.api.importWorkspace({ body: told })).refused).to.deep.equal([]);
    expect((await other.api.getView({ name: 'Loads' })).groupBy).to.equal('model');
    expect((await other.api.listFilters()).items[0]).to.deep.include({ name: 'Failed', query: { state: 'failed' } });
    await other.api.importWorkspace({ body: { ...told, overwrite: true } });
    expect((await other.api.exportWorkspace()).files['views.yaml']).to.equal(files['views.yaml']);
    await other.close();
  });

  it('has commands and options that derive from its fields', async () => {
    const run = (...words: string[]) =>
      pindro(words, { env: { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey, COLUMNS: '200' } });
    expect((await run('view', 'list')).out).to.equal('No views yet. Save one with "pindro view save NAME".\n');
    expect((await run('view', 'save', 'Loads', '--group-by', 'tool', '--hours', '48')).out).to.equal(
      '✓ Saved Loads: group by tool, period in hours 48\n',
    );
    expect((await run('view', 'list')).out).to.match(
      /^VIEW +GROUP BY +PERIOD IN HOURS +SAVED BY +SAVED\nLoads +tool +48/,
    );
    expect((await run('view', 'save', 'Loads', '--group-by', 'moon')).err).to.include('Allowed choices are all, flow');
    expect((await run('view', 'show', 'Laods')).err).to.include('Did you mean "Loads"?');
  });
});
