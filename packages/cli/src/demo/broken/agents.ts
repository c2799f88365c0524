import { agent, type Broken, faultyModel, runFlow } from './broken.js';

const LOAD = 'Send 40 kg of flour up to larch on 2027-02-13.';
const lift = { server: 'lift', use: ['list_*', 'schedule_load', 'lift_status'] };

/** Failures of models and agents. */
export const AGENTS: readonly Broken[] = [
  {
    code: 'model_refused',
    about: 'a model by a name that is not served',
    run: async (ground) => {
      await faultyModel(ground, 'misnamed', 'house-unknown');
      return runFlow(ground, 'desk-misnamed', agent('A desk without a model', { model: 'misnamed' }), {
        message: 'Hello.',
      });
    },
  },
  {
    code: 'model_unreachable',
    about: 'a model that sends a page in place of an answer',
    run: async (ground) => {
      await faultyModel(ground, 'paged', 'house-page');
      return runFlow(ground, 'desk-paged', agent('A desk behind a gateway', { model: 'paged' }), { message: 'Hello.' });
    },
  },
  {
    code: 'answer_cut_off',
    about: 'a model that may say no more than a few words',
    run: async (ground) => {
      await faultyModel(ground, 'terse', 'house-short');
      return runFlow(ground, 'desk-terse', agent('A desk of few words', { model: 'terse' }), { message: 'Hello.' });
    },
  },
  {
    code: 'context_full',
    about: 'a result larger than what the model can read',
    run: async (ground) => {
      await faultyModel(ground, 'small', 'house', { context: 2000, max_tokens: 200 });
      const memory = { key: ['${ session.id }'], turns: 12 };
      const config = { model: 'small', toolbox: [{ server: 'weather', use: ['large'] }], memory };
      await runFlow(ground, 'desk-small', agent('A desk with a small head', config), {
        message: 'Get what is large.',
      });
      const body = { input: { message: 'And get what is large once more.' }, session: 'small-talk' };
      await ground.api.runFlow({ name: 'desk-small', body });
      return (await ground.api.runFlow({ name: 'desk-small', body })).run;
    },
  },
  {
    code: 'result_cut',
    about: 'a result of which a model reads the beginning alone',
    run: (ground) =>
      runFlow(
        ground,
        'desk-skimming',
        agent('A desk that skims', { model: 'house', toolbox: [{ server: 'weather', use: ['large'] }] }),
        { message: 'Get what is large.' },
      ),
  },
  {
    code: 'tool_invented',
    about: 'a model that calls a tool there is not',
    run: async (ground) => {
      await faultyModel(ground, 'dreamer', 'house-invents');
      return runFlow(ground, 'desk-dreamer', agent('A desk that dreams', { model: 'dreamer', toolbox: [lift] }), {
        message: LOAD,
      });
    },
  },
  {
    code: 'agent_in_circles',
    about: 'a model that makes the same call over and over',
    run: async (ground) => {
      await faultyModel(ground, 'giddy', 'house-circles');
      return runFlow(
        ground,
        'desk-giddy',
        agent('A desk in circles', { model: 'giddy', toolbox: [lift], limits: { rounds: 20 } }),
        { message: 'What is the status of the lift?' },
      );
    },
  },
  {
    code: 'limit_reached',
    about: 'one round, where two are needed',
    run: (ground) =>
      runFlow(
        ground,
        'desk-hurried',
        agent('A desk in a hurry', { model: 'house', toolbox: [lift], limits: { rounds: 1 } }),
        { message: 'What is the status of the lift?' },
      ),
  },
  {
    code: 'tools_not_offered',
    about: 'a pattern in the toolbox that fits no tool',
    run: (ground) =>
      runFlow(
        ground,
        'desk-toolless',
        agent('A desk without tools', { model: 'house', toolbox: [{ server: 'lift', use: ['shedule_*'] }] }),
        { message: LOAD },
      ),
  },
  {
    code: 'not_as_claimed',
    about: 'an answer that all is done, without a call',
    run: async (ground) => {
      await faultyModel(ground, 'boaster', 'house-claims');
      return runFlow(ground, 'desk-boaster', agent('A desk that boasts', { model: 'boaster', toolbox: [lift] }), {
        message: LOAD,
      });
    },
  },
  {
    code: 'rule_supplies_it',
    about: 'a rule that sets a weight the lift does not carry',
    run: (ground) =>
      runFlow(
        ground,
        'desk-heavy',
        agent('A desk that sends too much', {
          model: 'house',
          toolbox: [{ ...lift, tools: { schedule_load: { arguments: { weight_kg: { set: 400 } } } } }],
        }),
        { message: 'Schedule a load of flour to larch on 2027-02-13.' },
      ),
  },
  {
    code: 'rule_not_kept',
    about: 'a rule that reads what nothing has been kept of yet',
    run: (ground) =>
      runFlow(
        ground,
        'desk-hasty',
        agent('A desk that sends before it looks', {
          model: 'house',
          toolbox: [
            { server: 'lift', use: ['lift_status'], tools: { lift_status: { keep: { hut: 'result.hut' } } } },
            {
              ...{ server: 'lift', use: ['schedule_load'] },
              tools: { schedule_load: { arguments: { hut: { set: '${ kept.hut }' } } } },
            },
          ],
        }),
        { message: 'Schedule a load of 40 kg of flour on 2027-02-13.' },
      ),
  },
  {
    code: 'tools_alike',
    about: 'a model that lists loads where it should schedule one',
    run: async (ground) => {
      await faultyModel(ground, 'muddled', 'house-mixes');
      return runFlow(ground, 'desk-muddled', agent('A desk in a muddle', { model: 'muddled', toolbox: [lift] }), {
        message: LOAD,
      });
    },
  },
  {
    code: 'step_failed',
    about: 'a run done again, whose agent now wants what is not in the record',
    run: async (ground) => {
      const run = await runFlow(ground, 'desk-steady', agent('A steady desk', { model: 'house', toolbox: [lift] }), {
        message: LOAD,
      });
      const body = { from: 'desk', input: { message: LOAD.replace('40', '41') } };
      return (await ground.api.retryRun({ id: run, body })).run;
    },
  },
];
