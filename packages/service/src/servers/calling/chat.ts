import { type FlowDocument, PindroError } from '@pindro/core';
import type { ModelStore } from '../../models/store.js';
import type { Api } from '../../platform/api.js';
import type { Runner } from '../../runs/runner.js';
import type { ServerStore } from '../store.js';

interface Parts {
  servers: ServerStore;
  models: ModelStore;
  runner: Runner;
}

/** Talks to a model that holds the tools of one server: a flow of one agent, made for the occasion. */
export function serverChatRoute(api: Api, { servers, models, runner }: Parts): void {
  api.stream('chatServer', async (call, send) => {
    const name = call.param('name');
    servers.summary(name);
    const model = call.body.model ?? models.names()[0];
    if (model === undefined)
      throw new PindroError('not_found', {
        what: 'model connection',
        name: 'any',
        suggestion: 'Add one with "pindro model add".',
      });
    const document = agentFor(name, model);
    const request = {
      document,
      revision: null,
      stage: 'draft' as const,
      entry: 'chat' as const,
      caller: call.who.caller,
      session: call.body.session ?? null,
      input: { message: call.body.message },
    };
    send({ type: 'outcome', outcome: runner.present(await runner.watch(request, send)) });
  });
}

function agentFor(server: string, model: string): FlowDocument {
  return {
    format: 'pindro/flow@1',
    name: `chat-with-${server}`,
    input: { type: 'object', required: ['message'], properties: { message: { type: 'string' } } },
    steps: {
      agent: {
        kind: 'agent',
        with: {
          model,
          instructions: 'Use the tools you have. Say plainly when something did not work.',
          message: '${ input.message }',
          memory: { key: ['${ session.id }'], turns: 12 },
          toolbox: [{ server }],
        },
      },
    },
    result: '${ steps.agent.answer }',
  };
}
