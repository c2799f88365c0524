import { detail, failureRule, placeInFlow } from '../rule.js';

const UNRESOLVED = ['ENOTFOUND', 'EAI_AGAIN', 'EAI_NONAME', 'EDNS'];

export const nameUnknown = failureRule({
  code: 'name_unresolved',
  about: 'The host name in an address leads nowhere.',
  todo: 'Correct the name in the address, or the name service of this machine.',
  codes: ['server_unreachable', 'address_unreachable', 'model_unreachable', 'server_left_alone'],
  fits: (failure) => UNRESOLVED.includes(detail(failure, 'network')),
  explain: (failure, trace) => {
    const [server, model, address] = ['server', 'model', 'address'].map((name) => detail(failure, name));
    const host = /^\w+:\/\/([^/:]+)/.exec(address!)?.[1] ?? address;
    return {
      title: `The name "${host}" leads nowhere${server ? `: tool server "${server}" has it in its address` : ''}`,
      why: `Whoever resolves names for this machine does not know it (${detail(failure, 'network')}).`,
      fix: 'Look for a misspelling in the address; if it is right, ask whoever keeps the name service.',
      place: server ? { server } : model ? { model } : placeInFlow(failure, trace),
    };
  },
});
