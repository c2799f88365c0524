import { spawn } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import { PINDRO, pindro } from '../support/process.js';
import { furnish, LIFT_KEY, startTestLift, type Workspace, workspace } from '../support/workspace.js';

describe('everyday mistakes at the command line', () => {
  let house: Workspace;
  let lift: Awaited<ReturnType<typeof startTestLift>>;
  let env: Record<string, string>;
  before(async () => {
    house = await workspace();
    furnish(house.service);
    lift = await startTestLift();
    await house.api.attachServer({ body: { name: 'lift', url: lift.url, secret: LIFT_KEY } });
    env = { PINDRO_URL: house.service.url, PINDRO_KEY: house.apiKey };
  });
  after(async () => {
    await house.close();
    await lift.close();
  });

  /** What is typed, the exit code, and the words that say what was meant. */
  const mistakes: [what: string, words: string[], code: number, said: RegExp][] = [
    ['a misspelt noun', ['flwo', 'list'], 2, /Did you mean flow\?/],
    ['a misspelt verb', ['flow', 'lsit'], 2, /Did you mean list\?/],
    ['a misspelt option', ['flow', 'run', 'reserve-bunks', '--inptu', '{}'], 2, /Did you mean --input\?/],
    ['a misspelt flow', ['flow', 'run', 'reserve-bunk'], 1, /Did you mean "reserve-bunks"\?/],
    ['a misspelt tool', ['server', 'call', 'lift', 'lift_statsu'], 1, /Did you mean "lift_status"\?/],
    ['a misspelt input', ['flow', 'run', 'reserve-bunks', '-s', 'hutt=larch'], 1, /Did you mean "hut"\?/],
    ['a value that is none', ['run', 'list', '--state', 'finished'], 2, /Allowed choices are .*done/],
    ['a time without a unit', ['key', 'issue', 'a', '--endpoint', 'huts', '--expires', '90'], 1, /such as/],
    ['a number that is none', ['run', 'list', '--limit', 'many'], 2, /integer/],
    ['JSON that is none', ['server', 'call', 'lift', 'lift_status', '{station:top}'], 2, /is not JSON/],
    [
      'a file that is not there',
      ['flow', 'import', 'nowhere.yaml'],
      1,
      /nowhere\.yaml cannot be read: it does not exist/,
    ],
    ['a folder for a file', ['flow', 'import', '.'], 1, /a folder, but a file is expected/],
    ['an argument left out', ['endpoint', 'connect'], 2, /missing required argument 'name'/],
    ['an endpoint that is none', ['endpoint', 'connect', 'hut'], 1, /Did you mean "huts"\?/],
    ['a key for nothing', ['key', 'issue', 'spare'], 2, /would grant access to nothing.*--endpoint/s],
    ['a chat with nobody', ['chat', 'reserve-bunk'], 1, /Did you mean "reserve-bunks"\?/],
    ['a column without a type that there is', ['table', 'create', 'a', 'b:numbre'], 2, /name:type/],
  ];
  for (const [what, words, code, said] of mistakes)
    it(`say what was meant: ${what}`, async () => {
      const plain = await pindro(words, { env });
      expect(plain.code, plain.out + plain.err).to.equal(code);
      expect(plain.out + plain.err).to.match(said);
      const asJson = await pindro([...words, '--json'], { env });
      expect(asJson.code).to.equal(code);
      // A run that failed is shown as that, with its error.
      const shown = JSON.parse(asJson.out);
      const problem = shown.error ? { type: '', title: shown.error.message, status: 0, ...shown.error } : shown;
      expect(problem).to.include.keys('type', 'title', 'status', 'code', 'hint');
      expect(problem.code).not.to.equal('internal');
      expect(asJson.err).to.equal('');
    });

  it('ends well where only the beginning is read', async () => {
    const { columns } = house.service.tables.definitions.summary('bookings');
    expect(columns).to.have.length.above(0);
    for (let turn = 0; turn < 3; turn++)
      await house.api.addRows({
        name: 'bookings',
        body: { rows: Array.from({ length: 1000 }, () => ({ hut: 'larch', night: '2027-02-14', party: 1 })) },
      });
    const child = spawn(
      '/bin/sh',
      ['-c', `"${process.execPath}" "${PINDRO}" row export bookings | head -1; exit \${PIPESTATUS:-0}`],
      {
        env: { ...process.env, ...env },
      },
    );
    let [out, err] = ['', ''];
    child.stdout.on('data', (piece) => (out += piece));
    child.stderr.on('data', (piece) => (err += piece));
    const code = await new Promise((resolve) => child.once('close', resolve));
    expect([code, out.trim(), err]).to.deep.equal([0, 'id,hut,night,party,by', '']);
  });

  it('adds the rows of a file only where every one of them fits, and gives them back the same', async () => {
    await house.api.createTable({
      body: { name: 'cabins', columns: { deck: 'text', beds: 'whole', free: 'boolean' } },
    });
    const file = (name: string, text: string) => {
      writeFileSync(join(house.data, name), text);
      return join(house.data, name);
    };
    const bad = file('bad.csv', 'deck,beds\nupper,2\nlower,many\nlast,few\n');
    const refused = await pindro(['row', 'import', 'cabins', bad], { env });
    expect(refused.code).to.equal(2);
    expect(refused.err).to.match(/Line 3: "many" in column "beds" is not an integer/);
    expect(refused.err)
      .to.match(/Line 4: "few" in column "beds"/)
      .and.contain('No row was imported');
    expect((await house.api.getTable({ name: 'cabins' })).rows).to.equal(0);
    const rows = Array.from({ length: 1200 }, (_, index) => `"deck, ""${index}""",${index},${index % 2 === 0}`);
    const good = file('good.csv', `deck,beds,free\n${rows.join('\n')}\n`);
    const done = await pindro(['row', 'import', 'cabins', good, '--json'], { env });
    expect(JSON.parse(done.out)).to.deep.equal({ added: 1200, changed: 0 });
    const { out } = await pindro(['row', 'export', 'cabins'], { env });
    expect(
      out
        .trim()
        .split('\r\n')
        .slice(1)
        .map((line) => line.replace(/^\d+,/, '')),
    ).to.deep.equal(rows);
    const change = file('change.csv', 'id,deck,beds\r\n1," upper ",7\r\n,new,1\r\n');
    const changed = await pindro(['row', 'import', 'cabins', change, '--update-by', 'id', '--json'], { env });
    expect(JSON.parse(changed.out)).to.deep.equal({ added: 1, changed: 1 });
    const { row } = await house.api.getRow({ name: 'cabins', row: '1' });
    expect(row).to.deep.equal({ id: 1, deck: ' upper ', beds: 7, free: true });
    const unknown = file('unknown.csv', 'id,beds\n1,8\n9999,1\n');
    expect((await pindro(['row', 'import', 'cabins', unknown, '--update-by', 'id'], { env })).err).to.contain('9999');
    expect((await house.api.getRow({ name: 'cabins', row: '1' })).row.beds).to.equal(7);
  });
});
