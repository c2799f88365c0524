export { asFlow, type DoneCall } from './advice/as-flow.js';
export { anyJson } from './json/any-json.js';
export { bytesIn, humanSize } from './json/size.js';
export { size } from './json/size-schema.js';

// flows

// diagnosis
export { type ChangeKind, compareFlows, compareLines, type FlowChange, type FlowComparison } from './advice/compare.js';
export { type Contract, type ContractChange, contractChanges } from './advice/contract.js';
export { nextOfEach, reviewTools } from './advice/review/review.js';
export { REVIEW_RULES } from './advice/review/rules/registry.js';
export { asSent } from './advice/review/sent.js';
export type { Fix, ReviewedTool, Suggestion } from './advice/review/suggestion.js';
export { applyToolboxReview } from './advice/review/toolbox.js';
export { admits, claimIn } from './agent/claims/claims.js';
export { receiptOf } from './agent/claims/receipt.js';
export { type ToolboxEntry, toolboxEntry } from './agent/config.js';
export { type AgentReplay, replayAgent } from './agent/conversation/agent-replay.js';
export type { AgentEntry, CallRecord } from './agent/conversation/conversation.js';
export { MEMORY_PARTS, type MemoryPlace, partOf, placeOf } from './agent/memory/memory.js';
export { fitTurns, newest } from './agent/memory/window.js';
export { type ToolboxTool, toolboxAsTools, toolboxTools } from './agent/toolbox/extract-toolbox.js';
export { fillInstructions, fillToolbox } from './agent/toolbox/stored-values.js';
// plain values
export { linkAbort, orAborted } from './async/abort.js';
export { giveWay, letOthers } from './async/yield.js';
export {
  type AddressConnection,
  type CatalogueHit,
  type CommandConnection,
  chosenSecrets,
  findInCatalogue,
  type OutgoingValue,
  type RecognizedServer,
  recognizeServers,
  type SecretChoice,
  secretFormat,
  secretReason,
} from './attach/index.js';
export * from './attach/transports.js';
export { compareRunTraces, type RunComparison } from './diagnosis/compare-runs.js';
export { type ComparedField, compareTexts, compareValues, type TextPiece } from './diagnosis/compare-values.js';
export { DIAGNOSIS_VERSION, diagnose, needsOf } from './diagnosis/diagnose.js';
export type { CredentialForm } from './diagnosis/expected-credential-form.js';
export {
  type CredentialFact,
  type FactOf,
  Facts,
  type ModelFact,
  type NearFact,
  type Need,
  needKey,
  type ServerFact,
} from './diagnosis/facts.js';
export { type Finding, findingSchema, type Place, type ProposedFix, proposedFixSchema } from './diagnosis/finding.js';
export { deepest, type Trace } from './diagnosis/indexed.js';
export { isRemarkable } from './diagnosis/noteworthy.js';
export { fixWords, placeWords } from './diagnosis/place-text.js';
export type { DiagnosisRule } from './diagnosis/rule.js';
export { PROGRAM_CODES } from './diagnosis/rules/address/program-failed.js';
export { DIAGNOSIS_RULES } from './diagnosis/rules/registry.js';
export { type SentHeader, sentHeader } from './diagnosis/sent-header.js';
export { Replay } from './engine/replay.js';
// running them
export { MOST_INPUTS, type RunRequest, refuseManyInputs } from './engine/request.js';
export { runFlow, type StartedRun, startFlow } from './engine/run.js';
export { today } from './engine/today.js';
export {
  asPindroError,
  catalogue,
  countMistakes,
  type ErrorCode,
  type ErrorRecord,
  type Mistake,
  PindroError,
  type Problem,
  reportUnforeseen,
  systemCode,
  useForeseen,
  withHint,
} from './errors/errors.js';
export { type Audience, failureText } from './errors/failure-text.js';
// expressions
export { type HardStop, overBudget, useHardStop } from './expression/budget.js';
export { cutTemplate } from './expression/cut.js';
export { baseEnvironment } from './expression/environment.js';
export { type Missing, rowFiller, Template } from './expression/template.js';
export { allSteps, type PlacedStep } from './flow/all-steps.js';
export { type CheckResult, checkFlow, flowInvalid, requireFlow, type Surroundings } from './flow/check.js';
export {
  type FlowDocument,
  flowSchema,
  inputSchema,
  NAME,
  NAME_RULE,
  nameSchema,
} from './flow/document.js';
export { type Draft, readDraft } from './flow/draft.js';
export {
  ANY_EFFECT,
  allEffects,
  annotationsOf,
  type EffectsOfUse,
  effectsOf,
  effectsOfTool,
} from './flow/effects.js';
export { comesAfter, graphOf, type Link, readLink } from './flow/graph.js';
export { flowJsonSchema } from './flow/json-schema.js';
export { linksOf, outlineOf } from './flow/outline.js';
export { referencesOf } from './flow/references.js';
export { namesAny, withColumnNames, withNewName } from './flow/rename.js';
export { resultSchema } from './flow/result-schema.js';
export { rewriteText, writeText } from './flow/rewrite.js';
export { firstMistakes, mistakesOf } from './flow/shape.js';
export { readSource, type Source, skimSource, sourceOf } from './flow/source.js';
export { warningsOf } from './flow/warnings.js';
export {
  asJson,
  canonical,
  findUnsafe,
  isLong,
  isObject,
  type Json,
  type JsonObject,
  type JsonSchema,
  ownOf,
  pointer,
  pointerParts,
  preview,
  setOwn,
  valueAt,
} from './json/json.js';
export { jsonMistake } from './json/json-mistake.js';
export { publishedSchema } from './json/published-schema.js';
export { describeType } from './json/type-names.js';
export { askModel } from './models/ask.js';
export type { AskedAnswer, AskOptions, ModelRetry } from './models/asking.js';
export { modelsOffered } from './models/available.js';
export type {
  Dialect,
  ModelAnswer,
  OfferedTool,
  Picture,
  Refusal,
  ToolCall,
  ToolChoice,
  Turn,
} from './models/dialect.js';
export { DIALECT_NAMES, dialectNamed } from './models/registry.js';
export { type ModelSettings, modelSettings, priceOf, settingsOf } from './models/settings.js';
// out of other people's documents
export { flowNameOf, flowOfOperation } from './openapi/make.js';
export { mergeUpdate } from './openapi/merge.js';
export { type ApiDescription, type ApiOperation, readOpenApi } from './openapi/read.js';
// what the outside provides
export type {
  ApprovalPort,
  ApprovalRequest,
  ArgumentRule,
  ArgumentRules,
  CallOptions,
  Comparison,
  Decision,
  EndpointPort,
  Exposure,
  FetchAnswer,
  FetchPort,
  FetchRequest,
  Filter,
  FlowPort,
  Lookup,
  Mail,
  MailPort,
  MemoryPort,
  ModelConnection,
  ModelPort,
  Ports,
  RevealedSecret,
  ScriptPort,
  ScriptRequest,
  SecretPort,
  ServerDescription,
  SteppingPort,
  TableAnswer,
  TableCondition,
  TableOperation,
  TablePort,
  ToolDescription,
  ToolMessage,
  ToolProgress,
  ToolResult,
  ToolServerPort,
  Where,
} from './ports/ports.js';
export { CREDENTIAL_OWNERS, type CredentialOwner, withQuery } from './ports/ports.js';
// steps
export { type StepDocument, stepSchema } from './steps/document.js';
export { type Branch, type Effects, NO_EFFECT, type References, type Sentence, type StepKind } from './steps/kind.js';
export { stepKind, stepKinds } from './steps/registry.js';
export { tableWhere } from './steps/table.js';
export { DURATION, humanDuration, milliseconds } from './text/duration.js';
export { nameFrom } from './text/naming.js';
export { didYouMean, nearest } from './text/suggest.js';
export { cutAt, withoutEnd } from './text/text-ends.js';
export { callServerTool } from './tools/call.js';
export { icon, iconsOf } from './tools/icons.js';
export { inferLookup, type LookedUp, valuesIn } from './tools/lookup.js';
export { lookupSchema } from './tools/lookup-schema.js';
export { MOST_SENT } from './tools/most-sent.js';
export { distinctNames, TOOL_NAME, toolName } from './tools/names.js';
// tools
export { resultText } from './tools/result-text.js';
export {
  argumentRules,
  isGoverned,
  mergeArguments,
  ruleMistakes,
  rulesFor,
  seenSchema,
} from './tools/rules.js';
export { sentence, validate } from './tools/schema.js';
export { select } from './tools/selection.js';
export { sendable } from './tools/sendable.js';
export type { ToolSettings } from './tools/settings.js';
export type { CallContext, SourceTool, ToolAnswer, ToolSource } from './tools/source.js';
export { blamedArguments } from './tools/sources/server.js';
export type { FlowOutcome, StartFlow } from './tools/start-flow.js';
export { supplierOf, supplierWords } from './tools/suppliers.js';
export { estimateTokens } from './tools/tokens.js';
export { wordsOf } from './tools/wrap/descriptions.js';
export { type Exchange, exchangeSchema, LONGEST_BODY, type OnExchange, schemesOf } from './trace/exchanges/exchange.js';
export type { Caller, Entry, RunHead, Through, Trial } from './trace/journal/head.js';
export { ENTRIES, headSchema } from './trace/journal/head.js';
export { momentOfTrace, newRunId, newSpanId, newTraceId } from './trace/journal/ids.js';
export type { JournalEntry, Parked } from './trace/journal/journal.js';
export { entrySchema } from './trace/journal/journal.js';
export type { JournalStore } from './trace/journal/journal-store.js';
export { MemoryJournal } from './trace/journal/memory-journal.js';
export { Recorder } from './trace/journal/recorder.js';
export { RECORD_VERSION } from './trace/journal/version.js';
// models
export { GRANT_WORDS, GRANTS, type Grant } from './trace/receipts/grants.js';
export { type ApprovalNote, type Receipt, receiptSchema } from './trace/receipts/receipt.js';
export { approvalWords, receiptWords, STATE_WORDS } from './trace/receipts/receipt-words.js';
export { MASK, Masker, maskError, SHORTEST_SECRET, sensitiveValues } from './trace/secrets/masking.js';
// traces
export { attribute } from './trace/spans/attributes.js';
export { readTraceContext, type TraceContext, type TraceFields, traceFields } from './trace/spans/context.js';
export type { LiveEvent, RecordEvent, WatchEvent, WatchPort } from './trace/spans/events.js';
export { boundPayload, SPAN_WORK, type Span, type SpanWork, spanSchema } from './trace/spans/span.js';
export type { RunState, Stage } from './trace/spans/states.js';
export { RUN_STATES, runState, stage } from './trace/spans/states.js';
// tools of somebody else, under watch
export {
  compareTools,
  FLAG_RULES,
  type Flag,
  flagsOf,
  type Held,
  MODEL_REVIEW,
  sameTool,
  seeTools,
  type ToolChange,
  type ToolPart,
  usableTools,
  WATCHES,
  type Watch,
} from './watch/index.js';
