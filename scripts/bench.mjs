/* Measures Pindro beside a reference in one run. `--json` prints one object a line, `--only NAME` runs one. */
import { parseArgs } from 'node:util';
import { prepare } from './prepare.mjs';

const { values } = parseArgs({ options: { json: { type: 'boolean' }, only: { type: 'string', multiple: true } } });
prepare();
const { agentRound, agents200, streamFirstWord } = await import('../bench/agents.mjs');
const { attach50Refresh, attach50Start, attachCall } = await import('../bench/attached.mjs');
const { traceCost } = await import('../bench/trace-cost.mjs');
const { bytesPerSpan, diagnose5000, manyRuns, spansPerSecond } = await import('../bench/traces.mjs');
const { toolbox2000 } = await import('../bench/toolbox.mjs');
const { toolsCall } = await import('../bench/tools-call.mjs');
const { idleMemory, start } = await import('../bench/at-rest.mjs');
const { check1000, eachMany, engineChain, engineFan } = await import('../bench/engine.mjs');
const { checkBlock } = await import('../bench/block.mjs');
const { canvas300 } = await import('../bench/canvas.mjs');
const { run5000 } = await import('../bench/run-page.mjs');
const { editorLoad, firstLoad, interactive } = await import('../bench/first-load.mjs');
const { manyFailed } = await import('../bench/failed.mjs');
const { grown } = await import('../bench/grown.mjs');
const { hostileBlock } = await import('../bench/hostile.mjs');
const { notify500, sessions500, toolsList200 } = await import('../bench/many-sessions.mjs');
const BENCHES = {
  'tools-call': toolsCall,
  'tools-list-200': toolsList200,
  'sessions-500': sessions500,
  'notify-500': notify500,
  'idle-memory': idleMemory,
  start,
  'engine-chain': engineChain,
  'engine-fan': engineFan,
  'each-100k': eachMany,
  'check-1000': check1000,
  'check-block': checkBlock,
  'hostile-block': hostileBlock,
  grown,
  'many-failed': manyFailed,
  'first-load': firstLoad,
  'editor-load': editorLoad,
  interactive,
  'canvas-300': canvas300,
  'run-5000': run5000,
  'attach-call-http': attachCall('http'),
  'attach-call-sse': attachCall('sse'),
  'attach-call-stdio': attachCall('stdio'),
  'attach-50-start': attach50Start,
  'attach-50-refresh': attach50Refresh,
  'toolbox-2000': toolbox2000,
  'agent-round': agentRound,
  'agents-200': agents200,
  'stream-first-word': streamFirstWord,
  'trace-cost': traceCost,
  'spans-per-second': spansPerSecond,
  'bytes-per-span': bytesPerSpan,
  'many-runs': manyRuns,
  'diagnose-5000': diagnose5000,
};

const unknown = values.only?.find((name) => !(name in BENCHES));
if (unknown) {
  process.stderr.write(`There is no benchmark "${unknown}". There are: ${Object.keys(BENCHES).join(', ')}.\n`);
  process.exit(2);
}
const say = (text) => process.stderr.write(`  ${text}\n`);
for (const [name, bench] of Object.entries(BENCHES)) {
  if (values.only && !values.only.includes(name)) continue;
  process.stderr.write(`${name} …\n`);
  const result = await bench(say);
  const p99 = result.p99 ? `; p99 ${result.p99.ours.toFixed(1)} ms against ${result.p99.reference.toFixed(1)} ms` : '';
  process.stdout.write(
    values.json
      ? `${JSON.stringify(result)}\n`
      : `${name}: ${result.ours} ${result.unit} against ${result.reference} ${result.unit}, ratio ${result.ratio.toFixed(2)}${p99}\n`,
  );
}
