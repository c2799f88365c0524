import type { Preview } from '@pindro/contract';
import {
  asPindroError,
  attribute,
  type Dialect,
  dialectNamed,
  estimateTokens,
  type FetchRequest,
  isObject,
  type Json,
  type JsonObject,
  MemoryJournal,
  PindroError,
  type Ports,
  type RunRequest,
  runFlow,
  type Span,
} from '@pindro/core';

/** Getting ready what a model will be sent reaches tool servers, and no longer than this, in milliseconds. */
const LIMIT = 20_000;

/**
 * What a model will be sent first by a step of a draft: the step goes the way that it goes when it runs, up to the moment
 * in which the model would be asked. Nothing is asked, recorded or remembered.
 * @param request a run of one step alone
 * @throws what keeps the step from asking
 */
export async function previewOf(request: RunRequest, ports: Ports): Promise<Preview> {
  const journal = new MemoryJournal();
  let sent: FetchRequest | undefined;
  const reached = new PindroError('cancelled', { what: 'The model request' });
  const dry: Ports = {
    ...ports,
    fetch: async (asked) => {
      sent ??= asked;
      throw reached;
    },
    memory: {
      ...{ open: (key, { expires }) => ports.memory.look!(key, expires), look: ports.memory.look!.bind(ports.memory) },
      save: async () => {},
      release: async () => {},
    },
    record: journal,
    watch: { show: () => {} },
  };
  const outcome = await runFlow(request, dry, AbortSignal.timeout(LIMIT));
  const span = journal.spans().find(({ work }) => work === 'model');
  if (!sent || !span) throw outcome.error ? PindroError.from(outcome.error) : notAsking();
  const { dialect } = await ports.models.connection(String(span.attributes[attribute.model]));
  return presented(sent, span, dialectNamed(dialect)!);
}

const notAsking = () => new PindroError('request_invalid', { why: 'The step uses no model' }, { at: '/step' });

function presented(sent: FetchRequest, span: Span, dialect: Dialect): Preview {
  const turns = (Array.isArray(span.input) ? span.input : []) as { role: string; text: string; name?: string }[];
  const [system, rest] = turns[0]?.role === 'system' ? [turns[0].text, turns.slice(1)] : ['', turns];
  const offered = (span.attributes[attribute.offered] ?? []) as {
    name: string;
    description: string;
    schema: JsonObject;
  }[];
  const tools = offered.map((tool) => ({ ...tool, lost: dialect.schema(tool.schema).lost }));
  const body = asJson(sent.body ?? '{}');
  return {
    ...{ connection: String(span.attributes[attribute.model]), model: String(span.attributes[attribute.requestModel]) },
    ...{
      system,
      tools,
      turns: rest.map(({ role, text, name }) => ({ role, text, ...(name && { tool: name }) })),
      body,
    },
    tokens: {
      system: estimateTokens(system),
      tools: estimateTokens(offered),
      turns: rest.reduce((sum, { text }) => sum + estimateTokens(text), 0),
    },
    left: (span.attributes[attribute.leftOut] ?? []) as string[],
    address: new URL(sent.url).origin + new URL(sent.url).pathname,
  };
}

function asJson(text: string): Json {
  try {
    const body = JSON.parse(text) as Json;
    return isObject(body) ? body : {};
  } catch (error) {
    throw asPindroError(error);
  }
}
