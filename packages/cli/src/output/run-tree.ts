import type { RunDetail } from '@pindro/contract';
import {
  attribute,
  criticalPath,
  type Finding,
  fixWords,
  humanDuration,
  isObject,
  madeThings,
  placeWords,
  type Span,
  TraceTree,
  transcriptsOf,
} from '@pindro/core/browser';
import pc from 'picocolors';
import { showReceipt } from './receipt.js';
import { brief, moment, state } from './table.js';
import { showTranscript } from './transcript.js';

const MARKS: Record<Span['status'], string> = {
  ok: pc.green('✓'),
  error: pc.red('✗'),
  skipped: pc.dim('–'),
  running: pc.cyan('…'),
};
const duration = (span: Span) => humanDuration((span.end ?? span.start) - span.start);

/** What a run waits for and what to do about it. */
const showWait = (id: string) => (wait: RunDetail['waits'][number]) => {
  const step = `${pc.yellow('○')} step ${pc.bold(wait.path)} is waiting: ${wait.what}`;
  if (wait.for === 'person') return `${step}\n pindro approval approve ${id}, or reject`;
  return wait.run ? `${step}\n  pindro run show ${wait.run}` : step;
};

/** Describes a run: findings and fixes first, then the whole tree with durations. */
export function showRun(run: RunDetail, { full = false } = {}): string {
  const spans = run.spans as Span[];
  const tree = new TraceTree(spans);
  const path = criticalPath(spans);
  // Where the run waited for everything, marking everything says nothing.
  const waited = path.size < spans.length ? path : new Map<string, number>();
  const time = run.endedAt ? humanDuration(Date.parse(run.endedAt) - Date.parse(run.startedAt)) : '';
  const revision = run.revision === null ? run.stage : `${run.stage}, revision ${run.revision}`;
  const head = `${pc.bold(run.flow)}  ${state(run.state)}${time ? ` in ${time}` : ''}  ${pc.dim(`${run.id}  ${moment(run.startedAt)}  ${revision}  by ${run.caller}`)}`;
  const findings = (run.findings as Finding[]).map(showFinding);
  return [
    ...findings,
    ...run.waits.map(showWait(run.id)),
    ...showReceipt(run.receipt),
    head,
    pc.dim(run.url),
    '',
    ...tree.roots.flatMap((root) => lines(root, tree, { lead: '', under: '', full, waited })),
    ...(waited.size > 0 ? [pc.dim('* what the run waited for: its critical path')] : []),
    ...(full ? transcriptsOf(spans).flatMap(showTranscript) : []),
    ...madeLine(spans),
    ...(run.result === null
      ? []
      : ['', `${pc.dim('result')}  ${full ? JSON.stringify(run.result, null, 2) : brief(run.result, 400)}`]),
  ].join('\n');
}

function madeLine(spans: readonly Span[]): string[] {
  const made = madeThings(spans).map(({ label }) => label);
  return made.length > 0 ? ['', `${pc.dim('made')}    ${made.join(', ')}`] : [];
}

export function showFinding(finding: Finding): string {
  const mark = finding.severity === 'failure' ? pc.red('✗') : pc.yellow('!');
  const often = finding.times > 1 ? pc.dim(` (${finding.times} times)`) : '';
  return [
    `${mark} ${pc.bold(finding.title)}${often}`,
    `  ${pc.dim('why')}    ${finding.why}`,
    ...finding.quotes.map((words) => `  ${pc.dim('quote')}  “${words}”`),
    ...finding.follows.map(({ title }) => `  ${pc.dim('then')}   ${title}`),
    `  ${pc.dim('fix')}    ${finding.fix}`,
    ...(finding.place ? [`  ${pc.dim('where')}  ${placeWords(finding.place)}`] : []),
    ...(finding.cure ? [`  ${pc.dim('apply')}  ${fixWords(finding.cure)}: pindro run fix ${finding.run}`] : []),
    '',
  ].join('\n');
}

interface Lines {
  /** What stands before the first line, and before those under it. */
  lead: string;
  under: string;
  /** Whether values are shown whole. */
  full: boolean;
  /** What is marked as that for which the run waited. */
  waited: ReadonlyMap<string, number>;
}

function lines(span: Span, tree: TraceTree, { lead, under, full, waited }: Lines): string[] {
  const children = tree.children(span);
  const inner = under + (children.length > 0 ? '│  ' : '   ');
  const payload = (name: string, value: unknown) =>
    value === undefined || value === null
      ? []
      : full
        ? wholeOf(value).map((line, index) => `${inner}${pc.dim(`${(index === 0 ? name : '').padEnd(5)} ${line}`)}`)
        : [`${inner}${pc.dim(`${name.padEnd(5)} ${brief(value)}`)}`];
  const shown = [
    `${lead}${MARKS[span.status]} ${labelOfSpan(span)}  ${pc.dim(duration(span))}${waited.has(span.spanId) ? '*' : ''}`,
    ...payload('in', span.work === 'model' && !full ? undefined : span.input),
    ...payload('out', span.work === 'model' ? modelOutput(span) : span.output),
    ...(span.error ? [`${inner}${pc.red(`error ${full ? span.error.message : brief(span.error.message, 160)}`)}`] : []),
    ...(full ? attributesOf(span).map((line) => `${inner}${pc.dim(line)}`) : []),
  ];
  children.forEach((child, index) => {
    const last = index === children.length - 1;
    const [mark, next] = last ? ['└─ ', '   '] : ['├─ ', '│  '];
    shown.push(...lines(child, tree, { lead: under + mark, under: under + next, full, waited }));
  });
  return shown;
}

const wholeOf = (value: unknown): string[] =>
  (typeof value === 'string' ? value : JSON.stringify(value, null, 2)).split('\n');

/** Attributes of a span in addition to its line. Tools offered to a model are long and listed by name only. */
function attributesOf({ attributes }: Span): string[] {
  return Object.entries(attributes).map(([name, value]) => {
    const offered = name === attribute.offered && Array.isArray(value);
    const shown = offered ? value.filter(isObject).map((tool) => String(tool.name)) : value;
    return `${name.replace(/^pindro\./, '')} = ${typeof shown === 'string' ? shown : JSON.stringify(shown)}`;
  });
}

/** Describes the index of a span among its siblings. */
export function labelOfSpan(span: Span): string {
  const { attributes } = span;
  switch (span.work) {
    case 'run':
      return `run ${pc.bold(span.name)}`;
    case 'step':
      return `step ${pc.bold(span.name)} ${pc.dim(`(${attributes[attribute.kind]})`)}${attributes[attribute.branch] ? pc.dim(` went ${attributes[attribute.branch]}`) : ''}`;
    case 'item':
      return `item ${Number(attributes[attribute.index] ?? 0) + 1}`;
    case 'agent':
      return `agent ${pc.dim(`on ${attributes[attribute.model]}`)}`;
    case 'model':
      return `model${attributes[attribute.round] === undefined ? '' : ` round ${attributes[attribute.round]}`} ${pc.dim(`${attributes[attribute.inputTokens] ?? '?'} tokens in, ${attributes[attribute.outputTokens] ?? '?'} out`)}`;
    case 'memory':
      return `memory ${span.name === 'keep' ? 'stored' : 'parsed'}`;
    case 'tool':
      return `tool ${pc.bold(String(attributes[attribute.tool]))}${attributes[attribute.server] ? ` of ${attributes[attribute.server]}` : ''}`;
  }
}

/** A model's answer without its wrapping: what it said, or which tools it called. */
function modelOutput(span: Span): unknown {
  const { output } = span;
  if (!isObject(output)) return output;
  const calls = Array.isArray(output.calls) ? output.calls.filter(isObject) : [];
  return calls.length > 0
    ? calls.map((call) => `${call.name} ${JSON.stringify(call.arguments)}`).join('  ')
    : output.text;
}
