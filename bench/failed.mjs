/* A page of fifty failed runs with two hundred spans each: what the list of runs costs, title and all. */
import { withService } from './service.mjs';

const RUNS = 50;
const SPANS = 200;
const BAR = 30;

export const manyFailed = (say) =>
  withService(async ({ url, headers, post }) => {
    const steps = Array.from(
      { length: SPANS - 2 },
      (_, i) => `  s${i}: { kind: shape, ${i ? `after: [s${i - 1}], ` : ''}with: { value: ${i} } }`,
    );
    steps.push(`  end: { kind: stop, after: [s${SPANS - 3}], with: { as: failed, message: "no bunk is free" } }`);
    await post('/flows', { document: `format: pindro/flow@1\nname: fails\nsteps:\n${steps.join('\n')}\n` });
    for (let run = 0; run < RUNS; run++) await post('/flows/fails/run', { input: {} });
    // The findings belong to the record at the runs' end; a moment for the last of them.
    await new Promise((resolve) => setTimeout(resolve, 1000));
    const times = [];
    for (let round = 0; round < 21; round++) {
      const begun = performance.now();
      const page = await fetch(`${url}/api/v1/runs?state=failed&limit=${RUNS}`, { headers }).then((one) => one.json());
      times.push(performance.now() - begun);
      if (page.items.length !== RUNS || !page.items.every(({ title }) => title.includes('no bunk is free')))
        throw new Error('the page is not what it should be');
    }
    const [first] = times;
    const ours = Math.round(times.sort((a, b) => a - b)[10]);
    say(`first ${Math.round(first)} ms, middle ${ours} ms, longest ${Math.round(times.at(-1))} ms`);
    return { name: 'many-failed', ours, reference: BAR, unit: 'ms', ratio: BAR / ours };
  });
