import type { Tool } from '../choose.js';
import type { ChatMessage } from '../think.js';
import type { Said } from './wire.js';
import { type ExchangeList, keyIn, list, lowerTypes, pieces, type Refused, STATUS, tokens } from './wire.js';

interface Part {
  text?: string;
  thought?: boolean;
  thoughtSignature?: string;
  functionCall?: { id?: string; name: string; args?: Record<string, unknown> };
  functionResponse?: { id?: string; name: string; response: { result?: string; error?: string } };
}
interface Body {
  contents?: { role?: string; parts: Part[] }[];
  systemInstruction?: { parts: Part[] };
  tools?: {
    functionDeclarations?: {
      name: string;
      description?: string;
      parameters?: Tool['parameters'];
      parametersJsonSchema?: Tool['parameters'];
    }[];
  }[];
  toolConfig?: { functionCallingConfig?: { mode?: string; allowedFunctionNames?: string[] } };
  generationConfig?: { responseSchema?: Tool['parameters']; responseJsonSchema?: Tool['parameters'] };
}
const WORDS: Record<Refused, string> = {
  ...{ key: 'UNAUTHENTICATED', unpaid: 'FAILED_PRECONDITION', busy: 'RESOURCE_EXHAUSTED', model: 'NOT_FOUND' },
  ...{ full: 'INVALID_ARGUMENT', fault: 'INTERNAL', request: 'INVALID_ARGUMENT' },
};
const ENDS = { answer: 'STOP', calls: 'STOP', length: 'MAX_TOKENS', refusal: 'SAFETY', paused: 'STOP' };
const SIGNED = 'c2lnbmVk';
/** What the format refuses in the schema of a tool. */
const REFUSED = /"(?:\$ref|oneOf|allOf|additionalProperties|const|default)":/;

/** Its calls have no ids of their own where the client sends none: results are found by the name, in their order. */
function turns(contents: NonNullable<Body['contents']>): ChatMessage[] {
  let made = 0;
  let taken = 0;
  return contents.flatMap(({ role, parts }): ChatMessage[] => {
    if (role === 'model') {
      const calls = parts.flatMap(({ functionCall }) => (functionCall ? [functionCall] : []));
      const text = parts.map(({ text = '', thought }) => (thought ? '' : text)).join('');
      const tool_calls = calls.map(({ name, args = {} }) => ({
        ...{ id: `fc_${made++}`, function: { name, arguments: JSON.stringify(args) } },
      }));
      return [{ role: 'assistant', content: text, ...(calls.length > 0 && { tool_calls }) }];
    }
    const results = parts.flatMap(({ functionResponse }) => (functionResponse ? [functionResponse] : []));
    const text = parts.map(({ text = '' }) => text).join('');
    return [
      ...results.map(({ response: { result, error } }) => ({
        ...{ role: 'tool' as const, tool_call_id: `fc_${taken++}` },
        content: error === undefined ? String(result ?? '') : `Error: ${error}`,
      })),
      ...(text ? [{ role: 'user' as const, content: text }] : []),
    ];
  });
}

function schemaOf({ generationConfig: config }: Body): Tool['parameters'] | null {
  const schema = config?.responseSchema ?? config?.responseJsonSchema;
  return schema ? lowerTypes(schema) : null;
}

export const generateContent: ExchangeList = {
  name: 'generate-content',
  path: '/models/:call',
  key: (request) => keyIn.header(request, 'x-goog-api-key') ?? (request.query.key as string | undefined),

  read({ body: given, params, query }) {
    const body = given as Body;
    const [model = '', method = ''] = String(params.call).split(':');
    if (method !== 'generateContent' && method !== 'streamGenerateContent') throw new Error(`there is no "${method}"`);
    const contents = list<NonNullable<Body['contents']>[number]>(body.contents, 'contents');
    const tools = (body.tools ?? []).flatMap(({ functionDeclarations = [] }) =>
      functionDeclarations.map(({ name, description = '', parameters, parametersJsonSchema }) => ({
        ...{ name, description },
        parameters: lowerTypes(parameters ?? parametersJsonSchema ?? {}),
        isOpenApi: parameters !== undefined,
      })),
    );
    const refused = tools.find(({ parameters, isOpenApi }) => isOpenApi && REFUSED.test(JSON.stringify(parameters)));
    if (refused) throw new Error(`Invalid JSON payload: unknown keyword in the parameters of ${refused.name}`);
    const signed = JSON.stringify(contents).includes('"functionCall"') && model.includes('thinks');
    if (signed && !JSON.stringify(contents).includes(SIGNED))
      throw new Error('a function call is missing a thought_signature');
    const system = body.systemInstruction?.parts.map(({ text = '' }) => text).join('') ?? '';
    const { mode, allowedFunctionNames } = body.toolConfig?.functionCallingConfig ?? {};
    return {
      ...{ model, tools, stream: method === 'streamGenerateContent' },
      messages: [...(system ? [{ role: 'system' as const, content: system }] : []), ...turns(contents)],
      schema: schemaOf(body),
      forced: mode === 'ANY' ? (allowedFunctionNames?.[0] ?? 'any') : null,
      usage: { input: tokens(contents) + tokens(body.tools), output: 0 },
      // Asked without "alt=sse" it streams one list of JSON.
      ...(query.alt !== 'sse' && { stream: false }),
    };
  },

  write(response, asked, said) {
    const usageMetadata = {
      promptTokenCount: asked.usage.input,
      candidatesTokenCount: asked.usage.output,
      thoughtsTokenCount: tokens(said.thought) - 1,
      totalTokenCount: asked.usage.input + asked.usage.output,
      cachedContentTokenCount: 0,
    };
    if (!asked.stream) {
      const candidates = [{ content: { role: 'model', parts: partsOf(said, false) }, finishReason: ENDS[said.end] }];
      return void response.json({ candidates, usageMetadata, modelVersion: asked.model });
    }
    response.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-cache' });
    const send = (message: object) => response.write(`data: ${JSON.stringify(message)}\r\n\r\n`);
    for (const part of partsOf(said, true)) send({ candidates: [{ content: { role: 'model', parts: [part] } }] });
    if (said.cut) return void response.destroy();
    send({ candidates: [{ content: { role: 'model', parts: [] }, finishReason: ENDS[said.end] }], usageMetadata });
    response.end();
  },

  error: (kind, message) => ({
    error: {
      code: STATUS[kind],
      message:
        kind === 'full' ? `The input token count exceeds the maximum number of tokens allowed: ${message}` : message,
      status: WORDS[kind],
      ...(kind === 'unpaid' && { details: [{ reason: 'BILLING_DISABLED' }] }),
    },
  }),
};

function partsOf(said: Said, inPieces: boolean): Part[] {
  const texts = said.text === '' ? [] : inPieces ? pieces(said.text) : [said.text];
  return [
    ...(said.thought ? [{ text: said.thought, thought: true }] : []),
    ...texts.map((text) => ({ text })),
    ...said.calls.map(({ name, arguments: args, isReadable }) => ({
      // Arguments are an object here: what cannot be read is a text in its place.
      functionCall: { name, args: (isReadable ? args : 'not an object') as Record<string, unknown> },
      ...(said.thought && { thoughtSignature: SIGNED }),
    })),
  ];
}
