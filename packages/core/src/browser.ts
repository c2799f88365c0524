/*
 * The light entry, for the console and the command line: no schema compiler, whose generated code a strict content
 * security policy forbids, and nothing that takes long to load.
 */

export { anyJson } from './any-json.js';
export { type CellType, cellText, type ReadCell, readCell } from './cells.js';
export {
  CSV_READING,
  CSV_WRITING,
  type CsvRecord,
  readCsvHead,
  readCsvRecord,
  writeCsvRecord,
} from './csv.js';
export { type ComparedField, compareTexts, compareValues, type TextPiece } from './diagnosis/compare-values.js';
export type { Finding, ProposedFix } from './diagnosis/finding.js';
export { findingSchema, proposedFixSchema } from './diagnosis/finding.js';
export { fixWords, placeWords } from './diagnosis/place-text.js';
export { DURATION, humanDuration, milliseconds } from './duration.js';
export { errorRecord } from './error-record.js';
export type { ErrorRecord } from './errors.js';
export { catalogue, PindroError } from './errors.js';
export { cutTemplate } from './expression/cut.js';
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
export { isObject, type Json, type JsonObject, type JsonSchema, pointer, pointerParts, valueAt } from './json.js';
export { jsonMistake } from './json-mistake.js';
export { type ModelSettings, modelSettings, settingsOf } from './models/settings.js';
export { nameFrom } from './naming.js';
export type { ArgumentRules, Lookup } from './ports.js';
export { publishedSchema } from './published-schema.js';
export { bytesIn, humanSize } from './size.js';
export { size } from './size-schema.js';
export type { StepDocument } from './steps/document.js';
export type { Sentence } from './steps/kind.js';
export { inferLookup } from './tools/lookup.js';
export { lookupSchema } from './tools/lookup-schema.js';
export { select } from './tools/selection.js';
export { type ArgumentSupplier, asRules, suppliedByServer, supplierOf, supplierWords } from './tools/suppliers.js';
export { rulesFor, seenSchema } from './tools/visible-schema.js';
export { attribute } from './trace/attributes.js';
export { type MadeThing, madeBySpan, madeThings } from './trace/created-things.js';
export { criticalPath } from './trace/critical-path.js';
export { type Moment, momentsOf, type SpanStates, spanStateIn, spanStatesAt } from './trace/event-log.js';
export type { LiveEvent } from './trace/events.js';
export { type Exchange, exchangeSchema } from './trace/exchange.js';
export { GRANT_WORDS, GRANTS, type Grant } from './trace/grants.js';
export { ENTRIES } from './trace/head.js';
export { parkedSchema } from './trace/journal.js';
export { MASK } from './trace/masking.js';
export { type ApprovalNote, type Receipt, type ReceiptLine, receiptSchema } from './trace/receipt.js';
export { approvalWords, receiptWords, STATE_WORDS } from './trace/receipt-words.js';
export type { Span } from './trace/span.js';
export { spanSchema } from './trace/span.js';
export { RUN_STATES, runState, STAGES, stage } from './trace/states.js';
export { type ModelTranscript, type TranscriptMessage, transcriptsOf } from './trace/transcripts.js';
export { type TraceRow, TraceTree, waysUp } from './trace/tree.js';
export { A_TYPE, describeType } from './type-names.js';
export { WATCHES, type Watch } from './watch/watches.js';
