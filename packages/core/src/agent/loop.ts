import { asPindroError, PindroError } from '../errors/errors.js';
import type { Json } from '../json/json.js';
import { asJson } from '../json/json.js';
import { attribute } from '../trace/spans/attributes.js';
import type { AgentConfig } from './config.js';
import { type AgentAnswer, AgentConversation, type AgentRun } from './conversation/agent-conversation.js';
import { Patience } from './conversation/timeout.js';
import { timeOf } from './limits.js';

/**
 * Lets a model work with tools until it answers: sends requests, runs its calls in parallel, and returns their results
 * to it. A failed call is reported to the model and does not end the run. Events are written to the journal, so that a
 * waiting or interrupted run can resume.
 * @throws round_limit, token_limit, money_limit, timed_out, agent_in_circles, and errors of the model
 */
export async function runAgent(run: AgentRun): Promise<AgentAnswer> {
  const { config, context, memory } = run;
  const patience = new Patience(timeOf(config));
  const signal = AbortSignal.any([context.signal, patience.signal]);
  const span = context.recorder.span('agent', `invoke_agent ${context.path}`, context.parentSpan, {
    input: config.message,
    attributes: { [attribute.operation]: 'invoke_agent', ...saidOf(run) },
  });
  const talk = new AgentConversation(run, { ...context, signal, parentSpan: span.id }, patience);
  try {
    if (memory) await talk.remember(memory);
    else talk.begin([]);
    try {
      await talk.goOn();
      if (memory) await talk.keep(memory);
    } finally {
      if (memory) await context.run.ports.memory.release(memory);
    }
    const answer = talk.outcome();
    span.set({
      [attribute.inputTokens]: answer.tokens.input,
      [attribute.outputTokens]: answer.tokens.output,
      ...(answer.cost > 0 && { [attribute.cost]: answer.cost }),
      [attribute.receipt]: asJson(answer.receipt),
    });
    span.done(answer.answer);
    return answer;
  } catch (error) {
    const failure = patience.signal.aborted && !context.signal.aborted ? late(config) : error;
    const receipt = talk.receipt();
    span.set({ [attribute.receipt]: asJson(receipt) });
    span.fail(failure);
    // What was done before it failed stays done.
    throw Object.assign(asPindroError(failure), { receipt });
  } finally {
    patience.end();
  }
}

const late = ({ limits }: AgentConfig) =>
  new PindroError('timed_out', { what: 'The agent', limit: limits.time }, { details: { limit: 'limits.time' } });

/** Attributes of an agent's span. */
function saidOf({ config, toolbox, connection }: AgentRun): { [name: string]: Json } {
  return {
    [attribute.requestModel]: connection.model,
    [attribute.model]: config.model,
    ...(config.toolbox.length > 0 && { [attribute.tools]: toolbox.tools.map((tool) => tool.name) }),
    ...(toolbox.unreachable.length > 0 && {
      [attribute.unreachable]: toolbox.unreachable.map(({ server, error }) => ({
        server,
        message: error.message,
        hint: error.hint,
      })),
    }),
    ...(toolbox.renamed.length > 0 && { [attribute.renamedTools]: toolbox.renamed }),
    ...(toolbox.held.length > 0 && { [attribute.heldTools]: toolbox.held }),
    ...(toolbox.idle.length > 0 && { [attribute.idlePatterns]: toolbox.idle }),
  };
}
