import { type Broken, runFlow, saveFlow } from './broken.js';

const hut = { type: 'object', properties: { hut: { type: 'string' } } };
const text = (words: string) => ({ kind: 'text', with: { text: words } });

/** What is broken in the steps of a flow, and at what they reach. */
export const STEPS: readonly Broken[] = [
  {
    code: 'no_value',
    about: 'a misspelled field',
    run: (ground) =>
      runFlow(
        ground,
        'welcome',
        {
          title: 'Welcome a guest',
          input: { type: 'object', properties: { guest: { type: 'object' } } },
          steps: { say: text('Welcome, ${ input.guest.nmae }!') },
          result: '${ steps.say.text }',
        },
        { guest: { name: 'Tobias' } },
      ),
  },
  {
    code: 'wrong_type',
    about: 'a text that is added to a number',
    run: (ground) =>
      runFlow(
        ground,
        'one-more',
        {
          title: 'One guest more',
          input: { type: 'object', properties: { party: {} } },
          steps: { sum: { kind: 'shape', with: { value: '${ input.party + 1 }' } } },
          result: '${ steps.sum.value }',
        },
        { party: 'four' },
      ),
  },
  {
    code: 'nothing_matched',
    about: 'a booking that is removed, and is not there',
    run: (ground) =>
      runFlow(
        ground,
        'remove-nobody',
        {
          title: 'Remove a booking',
          input: { type: 'object', properties: { by: { type: 'string' } } },
          steps: {
            take: { kind: 'table', with: { table: 'bookings', do: 'remove', where: { by: '${ input.by }' } } },
            say: { kind: 'text', after: ['take'], with: { text: 'The booking of ${ input.by } is removed.' } },
          },
          result: '${ steps.say }',
        },
        { by: 'nobody-of-the-ridge' },
      ),
  },
  {
    code: 'no_branch_taken',
    about: 'a choice with nothing for what is left',
    run: (ground) =>
      runFlow(
        ground,
        'which-way',
        {
          title: 'Which way up',
          input: { type: 'object', properties: { kg: { type: 'number' } } },
          steps: {
            way: { kind: 'choose', with: { when: { heavy: '${ input.kg > 200 }', light: '${ input.kg < 100 }' } } },
            lift: { ...text('by the lift'), after: ['way.heavy'] },
            carry: { ...text('on the back'), after: ['way.light'] },
          },
        },
        { kg: 150 },
      ),
  },
  {
    code: 'search_nearly_found',
    about: 'a search with a capital letter that is not there',
    run: (ground) =>
      runFlow(
        ground,
        'find-hut',
        {
          title: 'Find a hut',
          input: hut,
          steps: { find: { kind: 'table', with: { do: 'find', table: 'huts', where: { name: '${ input.hut }' } } } },
          result: '${ steps.find.count }',
        },
        { hut: 'Larch' },
      ),
  },
  {
    code: 'not_authorised',
    about: 'a key that goes along as a bearer key, where a header of its own is wanted',
    run: async (ground) => {
      const { api, service, standIns } = ground;
      const secret = service.credentials.value('wholesaler', { inside: 'inspect' });
      await api.addCredential({ body: { name: 'wholesaler-bearer', kind: 'bearer', secret } });
      return runFlow(ground, 'read-stock', {
        title: 'Read the stock',
        steps: {
          look: { kind: 'http', with: { url: `${standIns.wholesaler.url}/stock`, credential: 'wholesaler-bearer' } },
        },
      });
    },
  },
  {
    code: 'fields_refused',
    about: 'an order with a quantity that is a word',
    run: (ground) =>
      runFlow(
        ground,
        'order-by-word',
        {
          title: 'Order flour',
          input: { type: 'object', properties: { day: { type: 'string' } } },
          steps: {
            order: {
              kind: 'http',
              with: {
                ...{ method: 'POST', url: `${ground.standIns.wholesaler.url}/orders`, credential: 'wholesaler' },
                json: { hut: 'larch', day: '${ input.day }', lines: [{ item: 'flour', quantity: 1 }] },
              },
            },
          },
        },
        { day: 'Saturday' },
      ),
  },
  {
    code: 'address_has_nothing',
    about: 'an order that there is not',
    run: (ground) =>
      runFlow(
        ground,
        'look-at-order',
        {
          title: 'Look at an order',
          input: { type: 'object', properties: { order: { type: 'string' } } },
          steps: {
            look: {
              kind: 'http',
              with: { url: `${ground.standIns.wholesaler.url}/orders/\${ input.order }`, credential: 'wholesaler' },
            },
          },
        },
        { order: 'w9' },
      ),
  },
  {
    code: 'address_refused',
    about: 'more sacks than the wholesaler has',
    run: (ground) =>
      runFlow(ground, 'order-too-much', {
        title: 'Order a winter of flour',
        steps: {
          order: {
            kind: 'http',
            with: {
              ...{ method: 'POST', url: `${ground.standIns.wholesaler.url}/orders`, credential: 'wholesaler' },
              json: { hut: 'larch', day: '2027-02-13', lines: [{ item: 'flour', quantity: 900 }] },
            },
          },
        },
      }),
  },
  {
    code: 'mail_refused',
    about: 'a mail to two people, one of whom is nobody',
    run: (ground) =>
      runFlow(ground, 'tell-both', {
        title: 'Tell both wardens',
        steps: {
          post: {
            kind: 'mail',
            with: {
              to: ['ines@alder-ridge.example', 'nobody@alder-ridge.example'],
              ...{ subject: 'The road is open', text: 'From tomorrow on.' },
            },
          },
        },
      }),
  },
  {
    code: 'not_approved',
    about: 'a question that nobody answers in time',
    run: async (ground) => {
      const run = await runFlow(ground, 'ask-first', {
        title: 'Ask before the helicopter',
        live: true,
        steps: { ask: { kind: 'approve', with: { title: 'Send the helicopter?', expires: '1s' } } },
      });
      await ended(ground.api, run);
      return run;
    },
  },
  {
    code: 'flow_not_published',
    about: 'a live flow that calls one which never was',
    run: async (ground) => {
      await saveFlow(ground.api, 'weigh', { title: 'Weigh', steps: { say: text('40 kg') } }, false);
      return runFlow(ground, 'weigh-and-send', {
        title: 'Weigh and send',
        live: true,
        steps: { call: { kind: 'flow', with: { flow: 'weigh', input: {} } } },
      });
    },
  },
  {
    code: 'calls_itself',
    about: 'two flows that call one another',
    run: async (ground) => {
      const calls = (flow: string) => ({
        title: `Calls ${flow}`,
        steps: { call: { kind: 'flow', with: { flow, input: {} } } },
      });
      // One by one each was fine.
      await saveFlow(ground.api, 'echo', { title: 'Echo', steps: { say: text('…') } }, true);
      await saveFlow(ground.api, 'valley', calls('echo'), true);
      return runFlow(ground, 'echo', { ...calls('valley'), live: true });
    },
  },
  {
    code: 'script_failed',
    about: 'a script that reads what is not there, in its second line',
    run: (ground) =>
      runFlow(ground, 'sum-up', {
        title: 'Sum up',
        steps: { sum: { kind: 'script', with: { code: 'const rows = data.rows;\nreturn rows.length;', data: {} } } },
      }),
  },
  {
    code: 'table_refused',
    about: 'a change that its condition forbids',
    run: (ground) =>
      runFlow(ground, 'take-bunks', {
        title: 'Take bunks away',
        steps: {
          take: {
            kind: 'table',
            with: {
              ...{ do: 'change', table: 'huts', where: { name: 'larch' }, set: { bunks: '${ row.bunks - 20 }' } },
              when: '${ row.bunks >= 20 }',
            },
          },
        },
      }),
  },
  {
    code: 'stopped_on_purpose',
    about: 'a hut without room',
    run: (ground) =>
      runFlow(ground, 'closed-hut', {
        title: 'A closed hut',
        steps: { end: { kind: 'stop', with: { as: 'failed', message: 'alder is closed until April' } } },
      }),
  },
];

async function ended(api: Parameters<typeof saveFlow>[0], id: string): Promise<void> {
  while ((await api.getRun({ id })).endedAt === null) await new Promise((resolve) => setTimeout(resolve, 200));
}
