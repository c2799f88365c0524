/* Tool calls a second with the trace kept, beside the same service without: rounds in turn, so that a noisy machine is noisy for both. */
import { fileURLToPath } from 'node:url';
import { GREET, load, openSessions } from './load.mjs';
import { withService, withServiceOf } from './service.mjs';

const BAR = 1.15;
const SESSIONS = 16;
const ROUNDS = 7;
const ROUND = 1500;
const NO_SPANS = fileURLToPath(new URL('./no-spans.mjs', import.meta.url));
const middle = (values) => values.toSorted((a, b) => a - b)[Math.floor(values.length / 2)];

async function side({ url, post }) {
  await post('/flows', { document: GREET });
  const { key } = await post('/flows/greet/expose', { endpoint: 'bench' });
  const address = `${url}/mcp/bench`;
  const sessions = await openSessions(address, { authorization: `Bearer ${key}` }, SESSIONS);
  await load(address, sessions, 'greet', ROUND);
  return async () => (await load(address, sessions, 'greet', ROUND)).perSecond;
}

export const traceCost = (say) =>
  withService((on) =>
    withServiceOf(['--import', NO_SPANS], async (off) => {
      const [kept, without] = [await side(on), await side(off)];
      const ratios = [];
      for (let round = 0; round < ROUNDS; round++) {
        // Which comes first changes, so that neither always has the quieter half.
        const [first, second] = round % 2 === 0 ? [without, kept] : [kept, without];
        const [a, b] = [await first(), await second()];
        ratios.push(round % 2 === 0 ? a / b : b / a);
      }
      const ours = Number(middle(ratios).toFixed(3));
      say(`without spans ${ours} times as many calls a second (${ratios.map((one) => one.toFixed(2)).join(', ')})`);
      return { name: 'trace-cost', ours, reference: BAR, unit: 'times', ratio: BAR / ours };
    }),
  );
