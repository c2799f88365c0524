import { type Model, startModel } from '@pindro/standins';
import { expect } from 'chai';
import { deskFlow } from '../support/desk.js';
import { pindro } from '../support/process.js';
import { furnish, type Workspace, workspace } from '../support/workspace.js';

describe('agents at the command line', function () {
  this.timeout(90_000);
  let house: Workspace;
  let model: Model;
  before(async () => {
    [house, model] = await Promise.all([workspace(), startModel({ key: 'right-key-of-the-model' })]);
    furnish(house.service);
    for (const [name, secret] of [
      ['used-up', 'wrong-key-of-the-model'],
      ['fresh', 'right-key-of-the-model'],
    ] as const)
      await house.api.addCredential({ body: { name, secret } });
  });
  after(async () => {
    await house.close();
    await model.close();
  });
  const run = (...args: string[]) => pindro(args, { env: { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey } });
  const good = async (...args: string[]) => {
    const { out, err, code } = await run(...args);
    expect(code, `${args.join(' ')}: ${err}`).to.equal(0);
    return out;
  };
  const refused = async (...args: string[]) => {
    const { err, code } = await run(...args);
    expect(code, args.join(' ')).to.not.equal(0);
    return err;
  };

  it('give a model its settings, spare keys and a fallback, and say what it offers', async () => {
    const add = ['model', 'add', 'spare', model.url, 'house', '--credential', 'fresh'];
    expect(await refused(...add, '--dialect', 'generate-content')).to.contain('in the header x-goog-api-key');
    expect(await good(...add, '--set', 'max_tokens=800', '--set', 'price.input=3', '--set', 'stop=["END"]')).to.contain(
      'responds and is saved',
    );
    expect((await house.api.getModel({ name: 'spare' })).settings).to.deep.equal({
      ...{ max_tokens: 800, price: { input: 3 }, stop: ['END'] },
    });
    const house1 = ['model', 'add', 'house', model.url, 'house', '--credential', 'used-up'];
    expect(await refused(...house1))
      .to.contain('401')
      .and.contain('as a bearer credential');
    expect(await good(...house1, '--extra-credential', 'fresh', '--fallback', 'spare')).to.contain(
      'responds and is saved',
    );
    expect(await good('model', 'show', 'house'))
      .to.contain('used-up, fresh')
      .and.match(/fallback\s+spare/);
    expect(await good('model', 'test', 'house')).to.contain('✓ The model called a tool with');
    expect(await good('model', 'available', 'house')).to.contain('house-busy');
    expect(await good('model', 'uses', 'spare')).to.contain('model connection "house"');
    expect(await good('credential', 'list')).to.contain('model connection "house"');
    await good('model', 'update', 'spare', '--set', 'price.output=15', '--set', 'stop=null');
    expect((await house.api.getModel({ name: 'spare' })).settings).to.deep.equal({
      ...{ max_tokens: 800, price: { input: 3, output: 15 } },
    });
    expect(await refused('model', 'update', 'spare', '--set', 'warmth=3')).to.contain('warmth');
    expect(await refused('model', 'update', 'spare', '--fallback', 'house')).to.contain('falls back');
    expect(await good('model', 'update', 'house', '--fallback', '')).to.contain('Updated house');
    expect(await refused('model', 'add', 'nobody', model.url, 'house', '--dialect', 'mesages')).to.contain(
      '"messages"',
    );
  });

  it('follow a model and a credential to their new names', async () => {
    await good('model', 'update', 'house', '--fallback', 'spare');
    await good('model', 'rename', 'spare', 'second');
    await good('credential', 'rename', 'fresh', 'newer');
    const { keys, fallback } = await house.api.getModel({ name: 'house' });
    expect({ keys, fallback }).to.deep.equal({ keys: ['newer'], fallback: 'second' });
    expect((await house.api.getModel({ name: 'second' })).credential).to.equal('newer');
    const files = await house.api.exportWorkspace();
    expect(JSON.stringify(files)).to.contain('fallback').and.contain('newer').and.not.contain('right-key-of-the-model');
  });

  it('are read before they run, remembered, corrected, and made a flow of', async () => {
    const toolbox = 'built_in: { clock: true }\ntoolbox: [{ endpoint: huts }]';
    house.service.flows.drafts.save(deskFlow(toolbox, { model: 'second', memory: ', notes: true' }));
    const preview = await good('flow', 'preview', 'desk', 'desk', '--set', 'message=Hello there', '--session', 's');
    expect(preview).to.contain('To house of second').and.contain('reserve_bunks').and.contain('Hello there');
    expect(await refused('flow', 'preview', 'desk', 'none', '--set', 'message=x')).to.contain('no step named "none"');
    expect(await refused('flow', 'preview', 'desk', 'desk')).to.contain('message');

    const talk = ['flow', 'run', 'desk', '--session', 's', '--set'];
    expect(await good(...talk, 'message=Reserve 2 bunks in larch for 2027-02-14.')).to.contain('✓ reserve bunks');
    const [desk] = (await house.api.listRuns({ query: { flow: 'desk' } })).items;
    expect(await good('run', 'create-flow', desk!.id, 'desk-steps')).to.contain('desk-steps created as a draft');
    expect(await refused('run', 'create-flow', desk!.id, 'desk-steps')).to.contain('already');
    const asked = model.asked.length;
    const input = ['--set', 'hut=kestrel', '--set', 'night=2027-02-20', '--set', 'party=3'];
    expect(await good('flow', 'run', 'desk-steps', ...input)).to.contain('kestrel');
    expect(model.asked.length).to.equal(asked);

    const [memory] = (await house.api.listMemories({})).items;
    expect(await good('memory', 'list', 'larch'))
      .to.contain(memory!.id)
      .and.contain('desk for');
    expect(await good('memory', 'list', 'marmots')).to.contain('No memories yet');
    expect(await good('memory', 'note', memory!.id, 'hut', 'larch is Tobias’s')).to.contain('✓ hut');
    expect(await good('memory', 'show', memory!.id))
      .to.contain('larch is Tobias’s')
      .and.contain('Reserve 2 bunks');
    expect(JSON.parse(await good('memory', 'show', memory!.id, '--json'))).to.have.nested.property(
      'notes[0].about',
      'hut',
    );
    expect(await good('memory', 'note', memory!.id, 'hut')).to.contain('deleted');
    expect(await good('memory', 'forget', memory!.id)).to.contain('forgotten');
    expect(await refused('memory', 'show', memory!.id)).to.contain('no memory');
  });
});
