import { ProblemError } from '@pindro/contract';
import { type FaultyServer, PROGRAMS, startFaultyServer } from '@pindro/standins';
import { expect } from 'chai';

import { until, type Workspace, workspace } from '../support/workspace.js';

/** What a call of each tool comes to, by transport. */
const CODES: Record<string, Partial<Record<'http' | 'sse' | 'stdio', string>>> = {
  refuses: { http: 'tool_refused', sse: 'tool_refused' },
  busy: { http: 'server_busy', sse: 'server_busy' },
  breaks: { http: 'tool_broke', sse: 'tool_broke' },
  closes: { http: 'tool_reported_error', sse: 'tool_reported_error', stdio: 'tool_reported_error' },
  tires: { http: 'tool_reported_error', sse: 'tool_reported_error', stdio: 'tool_reported_error' },
  babbles: { http: 'tool_answer_odd', sse: 'tool_answer_odd', stdio: 'tool_answer_odd' },
  // There each answer has a stream of its own.
  ends: { http: 'server_lost' },
  drops: { http: 'server_lost' },
  prose: { http: 'tool_answer_odd' },
};

for (const speaks of ['http', 'sse', 'stdio'] as const)
  describe(`a call that goes wrong beside one that does not, over ${speaks}`, function () {
    this.timeout(30_000);
    let house: Workspace;
    let faulty: FaultyServer;
    let connected: number;
    before(async () => {
      [house, faulty] = await Promise.all([workspace(), startFaultyServer()]);
      const program = { command: process.execPath, args: [PROGRAMS.faulty], env: {} };
      const where = speaks === 'stdio' ? { program } : { url: speaks === 'http' ? faulty.url : faulty.older };
      await house.api.attachServer({ body: { name: 'faulty', ...where } });
      await call('good');
      await until(async () => (await house.api.getServer({ name: 'faulty' })).state === 'ready', 'it to be there');
      connected = faulty.connected();
    });
    after(() => Promise.all([house.close(), faulty.close()]));
    const call = (tool: string) =>
      house.api.callServerTool({ name: 'faulty', tool, body: { arguments: {} } }).catch((error: unknown) => {
        if (error instanceof ProblemError) return error.problem;
        throw error;
      });

    for (const [tool, codes] of Object.entries(CODES)) {
      const code = codes[speaks];
      if (!code) continue;
      it(`"${tool}" is told as ${code}, and the other is not touched`, async () => {
        const [good, bad, another] = await Promise.all([
          call('good'),
          new Promise((resolve) => setTimeout(resolve, 100)).then(() => call(tool)),
          call('good'),
        ]);
        expect(bad, JSON.stringify(bad)).to.include({ code });
        for (const one of [good, another, await call('good')]) expect(one).to.include({ text: 'all is well' });
        expect(faulty.connected(), 'connections').to.equal(connected);
        expect((await house.api.getServer({ name: 'faulty' })).state).to.equal('ready');
      });
    }

    it('an error of the server keeps its own words', async () => {
      expect(await call('closes'))
        .to.have.property('detail')
        .that.contains('the valve is closed');
      expect(await call('tires'))
        .to.have.property('detail')
        .that.contains('the pump is tired');
    });
  });
