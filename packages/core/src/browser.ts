/*
 * The light entry, for the console and the command line: no schema compiler, whose generated code a strict content
 * security policy forbids, and nothing that takes long to load.
 */

export {
  comparedLine,
  type FlowChange,
  type FlowComparison,
  flowChange,
  flowComparison,
} from './advice/flow-change.js';
export { type Suggestion, suggestion } from './advice/review/suggestion.js';
export * from './attach/transports.js';
export { type ComparedField, compareTexts, compareValues, type TextPiece } from './diagnosis/compare-values.js';
export type { Finding, ProposedFix } from './diagnosis/finding.js';
export { findingSchema, proposedFixSchema } from './diagnosis/finding.js';
export { fixWords, placeWords } from './diagnosis/place-text.js';
export { errorRecord } from './errors/error-record.js';
export type { ErrorRecord } from './errors/errors.js';
export { catalogue, PindroError } from './errors/errors.js';
export { type Mistake, mistakeSchema, type Problem, problemSchema } from './errors/problem.js';
export { cutTemplate } from './expression/cut.js';
export { type StepCard, type StepLink, stepCard, stepLink } from './flow/card.js';
export type { FlowDocument } from './flow/document.js';
export {
  addStep,
  changeStep,
  connect,
  copyText,
  disconnect,
  duplicateSteps,
  freeName,
  type Place,
  putInput,
  removeInput,
  removeSteps,
  renameBranch,
  renameInput,
  renameStep,
  stepsAt,
  takeIn,
  withValue,
} from './flow/edit.js';
export { graphOf, type Link, readLink } from './flow/graph.js';
export { readValue, showValue } from './flow/value-text.js';
export { anyJson } from './json/any-json.js';
export {
  asJson,
  canonical,
  isObject,
  type Json,
  type JsonObject,
  type JsonSchema,
  pointer,
  pointerParts,
  valueAt,
} from './json/json.js';
export { jsonMistake } from './json/json-mistake.js';
export { publishedSchema } from './json/published-schema.js';
export { bytesIn, humanSize } from './json/size.js';
export { size } from './json/size-schema.js';
export { A_TYPE, describeType } from './json/type-names.js';
export { type ModelSettings, modelSettings, settingsOf } from './models/settings.js';
export type { ArgumentRules, Lookup, ToolDescription } from './ports/ports.js';
export type { StepDocument } from './steps/document.js';
export { type Sentence, sentenceSchema } from './steps/sentence.js';
export { type CellType, cellText, type ReadCell, readCell } from './text/cells.js';
export {
  CSV_READING,
  CSV_WRITING,
  type CsvRecord,
  readCsvHead,
  readCsvRecord,
  writeCsvRecord,
} from './text/csv.js';
export { DURATION, humanDuration, milliseconds } from './text/duration.js';
export { nameFrom } from './text/naming.js';
export { argumentRules } from './tools/argument-rule.js';
export { inferLookup } from './tools/lookup.js';
export { lookupSchema } from './tools/lookup-schema.js';
export { select } from './tools/selection.js';
export { type ArgumentSupplier, asRules, suppliedByServer, supplierOf, supplierWords } from './tools/suppliers.js';
export { rulesFor, seenSchema } from './tools/visible-schema.js';
export { type Exchange, exchangeSchema } from './trace/exchanges/exchange.js';
export { ENTRIES } from './trace/journal/head.js';
export { parkedSchema } from './trace/journal/journal.js';
export { GRANT_WORDS, GRANTS, type Grant } from './trace/receipts/grants.js';
export { type ApprovalNote, type Receipt, type ReceiptLine, receiptSchema } from './trace/receipts/receipt.js';
export { approvalWords, receiptWords, STATE_WORDS } from './trace/receipts/receipt-words.js';
export { MASK } from './trace/secrets/masking.js';
export { attribute } from './trace/spans/attributes.js';
export { type MadeThing, madeBySpan, madeThings } from './trace/spans/created-things.js';
export { criticalPath } from './trace/spans/critical-path.js';
export { type Moment, momentsOf, type SpanStates, spanStateIn, spanStatesAt } from './trace/spans/event-log.js';
export { type LiveEvent, liveEvent } from './trace/spans/events.js';
export type { Span } from './trace/spans/span.js';
export { spanSchema } from './trace/spans/span.js';
export { RUN_STATES, runState, STAGES, stage } from './trace/spans/states.js';
export { type ModelTranscript, type TranscriptMessage, transcriptsOf } from './trace/spans/transcripts.js';
export { type TraceRow, TraceTree, waysUp } from './trace/spans/tree.js';
export { type Flag, flagSchema } from './watch/flag.js';
export { type ToolChange, toolChange } from './watch/tool-change.js';
export { WATCHES, type Watch } from './watch/watches.js';
