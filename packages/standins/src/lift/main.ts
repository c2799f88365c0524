import { parseArgs } from 'node:util';
import { startLift } from './server.js';

/* Runs the lift company as a process of its own. The key comes by the environment, where no process list shows it. */
const { values } = parseArgs({
  options: { port: { type: 'string' }, file: { type: 'string' }, smtp: { type: 'string' } },
});
const lift = await startLift({
  key: process.env.LIFT_KEY ?? '',
  ...(values.port && { port: Number(values.port) }),
  ...(values.file && { file: values.file }),
  ...(values.smtp && { smtpPort: Number(values.smtp) }),
});
process.stdout.write(`${JSON.stringify({ url: lift.url, pid: process.pid })}\n`);
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.once(signal, () => void lift.close().then(() => process.exit(0)));
// Ends with whoever started it, however that ended.
process.stdin.resume().once('end', () => process.exit(0));
