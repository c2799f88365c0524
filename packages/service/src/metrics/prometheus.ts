import { BOUNDS } from './histogram.js';
import type { MetricStore } from './store.js';

const KINDS: Record<string, string> = {
  flow: 'Runs of flows',
  endpoint: 'Calls through endpoints',
  tool: 'Calls of tools',
  server: 'Calls of tool servers',
  model: 'Requests to model connections',
};
const quote = (text: string) => `"${text.replaceAll('\\', '\\\\').replaceAll('"', '\\"').replaceAll('\n', '\\n')}"`;

/** What was counted since the service began, in the text format of Prometheus (version 0.0.4). */
export function metricsText({ total }: MetricStore, gauges: Record<string, number>): string {
  const lines: string[] = [];
  for (const [name, value] of Object.entries(gauges))
    lines.push(`# TYPE pindro_${name} gauge`, `pindro_${name} ${value}`);
  for (const [kind, about] of Object.entries(KINDS)) {
    const of = [...total].filter(([what]) => what.startsWith(`${kind}:`));
    if (of.length === 0) continue;
    const base = `pindro_${kind}`;
    const label = (what: string) => `${kind}=${quote(what.slice(kind.length + 1))}`;
    lines.push(`# HELP ${base}_total ${about}`, `# TYPE ${base}_total counter`);
    for (const [what, { runs, failed }] of of)
      lines.push(
        `${base}_total{${label(what)},outcome="failed"} ${failed}`,
        `${base}_total{${label(what)},outcome="other"} ${runs - failed}`,
      );
    lines.push(`# TYPE ${base}_duration_seconds histogram`);
    for (const [what, { histogram, runs }] of of) {
      let sum = 0;
      BOUNDS.forEach((bound, index) => {
        sum += histogram[index]!;
        lines.push(`${base}_duration_seconds_bucket{${label(what)},le="${bound / 1000}"} ${sum}`);
      });
      lines.push(
        `${base}_duration_seconds_bucket{${label(what)},le="+Inf"} ${runs}`,
        `${base}_duration_seconds_count{${label(what)}} ${runs}`,
      );
    }
    if (kind !== 'model') continue;
    lines.push('# TYPE pindro_tokens_total counter');
    for (const [what, { tokens }] of of) lines.push(`pindro_tokens_total{${label(what)}} ${tokens}`);
  }
  return `${lines.join('\n')}\n`;
}
