import { startFaultyServer } from '@pindro/standins';
import { type Broken, type Ground, runFlow, saveFlow } from './broken.js';
import { changeTheirMinds } from './flaky-server.js';

/** Attaches a server that nobody could test. */
const attach = ({ service }: Ground, name: string, url: string, more: object = {}) =>
  service.servers.attach({ name, url, credential: null, rules: {}, skipTest: true, by: service.host, ...more });

/** A flow of one call. */
const callOf = (title: string, server: string, tool: string, args: object = {}, more: object = {}) => ({
  title,
  steps: { call: { kind: 'tool', with: { server, tool, arguments: { ...args }, ...more } } },
  result: '${ steps.call.text }',
});
const UNSET = 'RIDGE_KEY_THAT_IS_NOT_SET';
const LOAD = { hut: 'larch', day: '2027-02-13', weight_kg: 40 };

/** What was well until the servers changed their minds. */
export async function trustThem({ api, moody }: Ground): Promise<void> {
  await api.attachServer({ body: { name: 'snow', url: moody.reworded.url } });
  await api.attachServer({ body: { name: 'pump', url: moody.stricter.url } });
  await saveFlow(api, 'pump-slowly', callOf('Pump slowly', 'pump', 'slow', { steps: 1 }), true);
  changeTheirMinds(moody);
}

/** What is broken at tool servers, on the way to them and in their tools. */
export const SERVERS: readonly Broken[] = [
  {
    code: 'not_authorised',
    about: 'a key that was pasted with its quotation marks',
    run: async (ground) => {
      const { credentials, servers } = ground.service;
      const key = credentials.value(servers.summary('lift').credential!, { inside: 'inspect' });
      await attach(ground, 'lift-quoted', ground.standIns.lift.url, { secret: `"${key}"` });
      return runFlow(ground, 'status-quoted', callOf('Ask with a spoilt key', 'lift-quoted', 'lift_status'));
    },
  },
  {
    code: 'not_authorised',
    about: 'no key at all, where one is there that is meant for it',
    run: async (ground) => {
      await attach(ground, 'lift-bare', ground.standIns.lift.url);
      return runFlow(ground, 'status-bare', callOf('Ask without a key', 'lift-bare', 'lift_status'));
    },
  },
  {
    code: 'caller_credential',
    about: 'a call on behalf of somebody who has no credential for it',
    run: (ground) =>
      runFlow(
        ground,
        'load-as-myself',
        callOf('Send as oneself', 'lift', 'schedule_load', LOAD, { credential: 'caller' }),
      ),
  },
  {
    code: 'credential_unusable',
    about: 'a credential whose value stands in a variable that is not set',
    run: async (ground) => {
      // It was there when the credential was made.
      process.env[UNSET] = 'the-key-of-the-lift';
      await ground.api.addCredential({ body: { name: 'elsewhere', source: { environment: UNSET } } });
      delete process.env[UNSET];
      await attach(ground, 'lift-unset', ground.standIns.lift.url, { credential: 'elsewhere' });
      return runFlow(ground, 'status-unset', callOf('Ask without a value', 'lift-unset', 'lift_status'));
    },
  },
  {
    code: 'not_a_tool_server',
    about: 'a server that speaks only the older transport since it was attached',
    run: async (ground) => {
      const { older, url } = ground.standIns.faulty;
      await attach(ground, 'valve', url, { skipTest: false });
      await ground.service.servers.change('valve', { url: older.replace(/sse$/, 'only-sse'), skipTest: true });
      return runFlow(ground, 'valve-check', callOf('Look at the valve', 'valve', 'good'));
    },
  },
  {
    code: 'not_a_tool_server',
    about: 'an address at which something else answers',
    run: async (ground) => {
      await attach(ground, 'letters', `${ground.standIns.mailbox.url}/mcp`);
      return runFlow(ground, 'read-letters', callOf('Read the letters', 'letters', 'read'));
    },
  },
  {
    code: 'name_unresolved',
    about: 'a host name with two letters changed round',
    run: async (ground) => {
      await attach(ground, 'litf', 'https://litf.alder-ridge.invalid/mcp');
      return runFlow(ground, 'status-misspelt', callOf('Ask at a name that is none', 'litf', 'lift_status'));
    },
  },
  {
    code: 'program_failed',
    about: 'a program that ends before it has said hello',
    run: async (ground) => {
      const args = ['-e', 'console.error("no map of the ridge in /trails"); process.exit(3)'];
      await attach(ground, 'maps', '', { program: () => ({ command: process.execPath, args, env: {} }) });
      return runFlow(ground, 'trail-map', callOf('Draw a map', 'maps', 'draw'));
    },
  },
  {
    code: 'server_unreachable',
    about: 'a server that was there when it was attached',
    run: async (ground) => {
      const gone = await startFaultyServer();
      await attach(ground, 'lift-closed', gone.url, { skipTest: false });
      await gone.close();
      return runFlow(ground, 'status-closed', callOf('Ask where nobody is', 'lift-closed', 'good'));
    },
  },
  {
    code: 'timed_out',
    about: 'a tool that never answers',
    run: async (ground) => {
      await attach(ground, 'weather', ground.standIns.faulty.url, { skipTest: false });
      const flow = callOf('Wait for the weather', 'weather', 'hangs');
      return runFlow(ground, 'weather-now', {
        ...flow,
        steps: { call: { ...flow.steps.call, timeout: '1s' } },
      });
    },
  },
  {
    code: 'tool_held',
    about: 'a tool that its server described anew after it was chosen',
    run: async (ground) => {
      await ground.api.refreshServer({ name: 'snow' });
      return runFlow(ground, 'snow-report', callOf('Report the snow', 'snow', 'good'));
    },
  },
  {
    code: 'tool_gone',
    about: 'a tool by a name that its server does not have',
    run: async (ground) => {
      // It was built while the server could not be asked.
      await attach(ground, 'cableway', 'http://127.0.0.1:9/mcp');
      await saveFlow(ground.api, 'load-misspelt', callOf('Send by another name', 'cableway', 'godo'), true);
      await saveFlow(ground.api, 'pump-by-name', callOf('Pump by a name', 'cableway', 'slow', { stepz: 1 }), true);
      await ground.service.servers.change('cableway', { url: ground.standIns.faulty.url });
      return (await ground.api.runFlow({ name: 'load-misspelt', body: { input: {}, stage: 'live' } })).run;
    },
  },
  {
    code: 'argument_renamed',
    about: 'an argument under a name that the tool does not have',
    run: async ({ api }) => (await api.runFlow({ name: 'pump-by-name', body: { input: {}, stage: 'live' } })).run,
  },
  {
    code: 'argument_now_required',
    about: 'a tool that wants an argument more than it did',
    run: async ({ api }) => (await api.runFlow({ name: 'pump-slowly', body: { input: {}, stage: 'live' } })).run,
  },
  {
    code: 'tool_error',
    about: 'a load that is too heavy for the lift',
    run: (ground) =>
      runFlow(ground, 'load-of-gas', callOf('Send gas', 'lift', 'schedule_load', { ...LOAD, weight_kg: 400 })),
  },
  {
    code: 'result_unfit',
    about: 'a tool that answers something else than it promises',
    run: (ground) => runFlow(ground, 'count-huts', callOf('Count', 'weather', 'wrong_schema')),
  },
];
