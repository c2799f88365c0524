/**
 * Attribute names of spans. Names of OpenTelemetry's semantic conventions (generative AI, MCP, end users) are used
 * where they exist.
 */
export const attribute = {
  caller: 'enduser.id',

  operation: 'gen_ai.operation.name',
  requestModel: 'gen_ai.request.model',
  finishReasons: 'gen_ai.response.finish_reasons',
  tool: 'gen_ai.tool.name',
  inputTokens: 'gen_ai.usage.input_tokens',
  outputTokens: 'gen_ai.usage.output_tokens',
  cachedTokens: 'gen_ai.usage.cache_read.input_tokens',

  mcpMethod: 'mcp.method.name',

  // a run
  entry: 'pindro.entry',
  stage: 'pindro.stage',
  revision: 'pindro.revision',
  /** Whether it resumed after a restart. */
  resumed: 'pindro.resumed',

  // a step
  kind: 'pindro.kind',
  /** The step's name, or STEP/INDEX/STEP inside a loop. */
  path: 'pindro.path',
  /** The turn of a loop, from 0. */
  index: 'pindro.index',
  attempt: 'pindro.attempt',
  branch: 'pindro.branch',
  /** Whether a kept result stood in for doing it. */
  held: 'pindro.held',
  /** Captured exchanges (`exchange.ts`), and their number. */
  exchanges: 'pindro.exchanges',
  exchanged: 'pindro.exchanged',
  /** Log lines, each with milliseconds since the start of the span. */
  said: 'pindro.said',

  // an agent
  /** Name of the model connection. */
  model: 'pindro.model',
  round: 'pindro.round',
  /** What of the conversation was not sent, because it would not fit. */
  leftOut: 'pindro.left_out',
  memoryKey: 'pindro.memory',
  /** What an answer rests on. */
  receipt: 'pindro.receipt',
  /** Why it was asked again, or another instead. */
  askedAgain: 'pindro.asked_again',
  /** Settings that the model does not support, and that were omitted. */
  omittedSettings: 'pindro.model.omitted_settings',
  /** What the model thought before it answered. */
  reasoning: 'pindro.reasoning',
  /** Names of the tools that the model was offered. */
  tools: 'pindro.tools',
  /** Tool servers whose tools could not be listed. */
  unreachable: 'pindro.unreachable',
  /** Patterns of the toolbox that no tool fits. */
  idlePatterns: 'pindro.idle_patterns',
  renamedTools: 'pindro.renamed_tools',
  offered: 'pindro.offered',
  unfit: 'pindro.unfit_result',
  trimmed: 'pindro.trimmed',
  /** Number of forwarded characters, and the total. */
  cutTo: 'pindro.cut_to',
  cost: 'pindro.cost',
  kept: 'pindro.kept_answer',
  /** What was kept of a result for the rest of the conversation, and what could not be, with why. */
  keptValues: 'pindro.kept',
  notKept: 'pindro.not_kept',
  heldTools: 'pindro.held_tools',

  // a call of a tool
  /** What its server calls it. */
  ownTool: 'pindro.own_tool',
  /** Whether it comes with Pindro. */
  builtIn: 'pindro.built_in',
  server: 'pindro.server',
  credential: 'pindro.credential',
  /** The arguments as they were sent, with what the rules added. */
  sent: 'pindro.sent',
  /** Who approved it, when, and what they changed. */
  approval: 'pindro.approval',
  /** The flow that a tool is. */
  flow: 'pindro.flow',
  childRun: 'pindro.child_run',
} as const;
