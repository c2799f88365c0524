import { detail, failureRule, placeInFlow } from '../../rule.js';

const UNRESOLVED = ['ENOTFOUND', 'EAI_AGAIN', 'EAI_NONAME', 'EDNS'];

export const nameUnknown = failureRule({
  code: 'name_unresolved',
  about: 'The host name in an address cannot be resolved.',
  todo: 'Correct the name in the address, or fix DNS on this machine.',
  codes: ['server_unreachable', 'address_unreachable', 'model_unreachable', 'server_left_alone'],
  fits: (failure) => UNRESOLVED.includes(detail(failure, 'network')),
  explain: (failure, trace) => {
    const [server, model, address] = ['server', 'model', 'address'].map((name) => detail(failure, name));
    const host = /^\w+:\/\/([^/:]+)/.exec(address!)?.[1] ?? address;
    return {
      title: `The host name "${host}" cannot be resolved${server ? `; tool server "${server}" uses it` : ''}`,
      why: `The DNS resolver of this machine does not know the name (${detail(failure, 'network')}).`,
      fix: 'Look for a typing error in the address. If it is correct, ask the operator of the DNS.',
      place: server ? { server } : model ? { model } : placeInFlow(failure, trace),
    };
  },
});
