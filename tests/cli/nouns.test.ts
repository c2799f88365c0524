import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { NOUNS, type Noun, WORK } from '@pindro/cli/nouns';
import { startModel } from '@pindro/standins';
import { expect } from 'chai';
import { pindro } from '../support/process.js';
import { LIFT_KEY, startTestLift, workspace } from '../support/workspace.js';

type Words = Partial<Record<keyof Noun, string[]>>;

describe('everything that people make', () => {
  it('is made, looked at, listed, changed, renamed, copied and removed by commands, and put back', async function () {
    // A process for each of a hundred commands.
    this.timeout(400_000);
    const house = await workspace();
    const lift = await startTestLift();
    const model = await startModel();
    const file = (name: string, text: string) => {
      writeFileSync(join(house.data, name), text);
      return join(house.data, name);
    };
    const api = file(
      'ferries.json',
      JSON.stringify({
        openapi: '3.1.0',
        info: { title: 'Ferries', version: '1' },
        servers: [{ url: 'http://127.0.0.1:9' }],
        paths: {
          '/trips': { get: { operationId: 'trips', summary: 'Trips', responses: { 200: { description: 'ok' } } } },
        },
      }),
    );
    const run = async (words: string[], input = '') => {
      const result = await pindro([...words, '--json'], {
        input,
        env: { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey },
      });
      expect(result.code, `${words.join(' ')}\n${result.out}${result.err}`).to.equal(0);
      return JSON.parse(result.out);
    };
    // What stands behind each command; later ones find what earlier ones left, often by a name it had before.
    const words: Record<string, () => Promise<Words & { one: string[] }>> = {
      flow: async () => ({
        one: ['sail'],
        list: ['sail'],
        change: ['sail', '--title', 'Set sail'],
        rename: ['sail', 'depart'],
        copy: ['depart', 'arrive'],
        remove: ['arrive'],
      }),
      endpoint: async () => ({
        one: ['quay'],
        list: ['quay'],
        change: ['quay', '--instructions', 'Ask for the day.'],
        rename: ['quay', 'pier'],
        copy: ['pier', 'jetty'],
        remove: ['jetty'],
      }),
      view: async () => ({
        one: ['weekly'],
        list: [],
        make: ['weekly', '--hours', '168'],
        change: ['weekly', '--group-by', 'tool'],
        rename: ['weekly', 'week by tool'],
        copy: ['weekly', 'another week'],
        remove: ['another week'],
      }),
      tool: async () => ({
        one: ['pier'],
        make: ['quay', 'sail', '--flow', 'sail'],
        change: ['pier', 'sail', '--description', 'Sets sail.'],
        rename: ['pier', 'sail', '--name', 'set_sail'],
        remove: ['pier', 'set_sail'],
      }),
      server: async () => ({
        one: ['lift'],
        list: [],
        make: ['lift', lift.url, '--secret'],
        change: ['lift', '--set', 'station=valley'],
        rename: ['lift', 'cable'],
        copy: ['lift', 'rope'],
        remove: ['rope'],
      }),
      credential: async () => ({
        one: ['mail'],
        list: ['purser'],
        make: ['mail', '--account', 'purser'],
        change: ['mail', '--account', 'captain'],
        rename: ['mail', 'post'],
        copy: ['mail', 'parcel'],
        remove: ['parcel'],
      }),
      model: async () => ({
        one: ['house'],
        list: ['house-1'],
        make: ['house', model.url, 'house-1'],
        change: ['house', '--set', 'temperature=0.2'],
        rename: ['house', 'home'],
        copy: ['home', 'spare'],
        remove: ['spare'],
      }),
      key: async () => {
        const [one] = (await house.api.listKeys({ query: { search: 'purser' } })).items;
        const id = one?.id ?? '';
        return {
          one: [id],
          list: ['purser'],
          make: ['purser', '--endpoint', 'pier'],
          change: [id, '--per-minute', '30'],
          rename: [id, '--name', 'chief purser'],
          copy: [id, 'steward'],
        };
      },
      table: async () => ({
        one: ['cabins'],
        list: ['deck'],
        make: ['cabins', 'deck', 'beds:whole'],
        change: ['cabins', '--add', 'free:boolean', '--rename', 'deck=floor'],
        rename: ['cabins', 'berths'],
        copy: ['cabins', 'bunks'],
        remove: ['bunks'],
      }),
      row: async () => ({
        one: ['berths', '1'],
        list: ['cabins', 'upper'],
        make: ['berths', 'floor=upper', 'beds=2'],
        change: ['berths', '1', 'beds=3'],
      }),
      entry: async () => {
        const ways = await house.api.listEntries({ query: { flow: 'sail' } });
        const id = ways.items.at(-1)?.id.slice(0, 8) ?? '';
        return {
          one: [id],
          list: ['sail'],
          make: ['sail', '--path', 'gate'],
          change: [id, '--auth', 'open'],
          rename: [id, 'port'],
          copy: [id, 'stern'],
        };
      },
      person: async () => ({
        one: ['tobias'],
        list: ['viewer'],
        change: ['tobias', 'builder'],
        rename: ['tobias', 'marit'],
      }),
      document: async () => ({
        one: ['ferries'],
        list: [],
        make: [api, '--name', 'ferries'],
        change: ['ferries', '--base', 'http://127.0.0.1:8'],
        rename: ['ferries', 'boats'],
      }),
      sample: async () => ({
        one: ['sail', 'calm'],
        list: ['sail'],
        make: ['sail', 'calm', '{"who":"Ines"}'],
        change: ['sail', 'calm', '{"who":"Marit"}'],
        rename: ['sail', 'calm', 'gale'],
        copy: ['sail', 'gale', 'storm'],
        remove: ['sail', 'storm'],
      }),
      label: async () => ({
        one: ['sea'],
        list: [],
        make: ['sea', 'depart'],
        rename: ['sea', 'ocean'],
        remove: ['ocean'],
      }),
    };
    const order = ['make', 'look', 'list', 'change', 'rename', 'copy', 'remove'] as const;
    for (const [noun, commands] of Object.entries(NOUNS)) {
      expect(words, `words for ${noun}`).to.have.property(noun);
      for (const verb of order) {
        const command = commands[verb];
        if (typeof command !== 'string') continue;
        const given = await words[noun]!();
        const input = noun === 'server' || noun === 'credential' ? LIFT_KEY : '';
        const done = await run([...command.split(' '), ...(given[verb] ?? given.one)], input);
        if (verb === 'list' && command.endsWith(' list')) expect(done.items, command).to.have.length.above(0);
        if (verb !== 'remove' || !done.removal) continue;
        expect((await run(['undo', done.removal.id])).name, command).to.equal(done.removal.name);
      }
    }
    expect((await run(['undo', '--list'])).items).to.deep.equal([]);
    await house.close();
    await lift.close();
    await model.close();
  });

  it('is every noun that the program has', async () => {
    const { out } = await pindro(['--help']);
    const listed = [...out.slice(out.indexOf('Commands:')).matchAll(/^ {2}([a-z-]+)/gm)].map((match) => match[1]!);
    const known = [...Object.keys(NOUNS).filter((noun) => noun !== 'tool'), ...WORK, 'help'];
    expect(listed.filter((name) => !known.includes(name))).to.deep.equal([]);
    expect(known.filter((name) => !listed.includes(name))).to.deep.equal([]);
  });
});
