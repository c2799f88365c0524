import { spawn } from 'node:child_process';
import { createInterface } from 'node:readline';
import { parseArgs } from 'node:util';
import { answer, type Message } from './answer.js';
import type { Whole } from './faults.js';

/* The misbehaving server as a program. What it does wrong from the beginning is chosen by name. */
const { values } = parseArgs({
  options: {
    fault: { type: 'string', default: 'none' },
    /** Holds the machine up with another program, which is to end with this one. */
    child: { type: 'boolean', default: false },
  },
});
const out = (text: string) => void process.stdout.write(`${text}\n`);

const STARTS: Record<string, () => void> = {
  none: () => {},
  exits: () => {
    process.stderr.write('faulty: the reservoir is empty\n');
    process.exit(3);
  },
  prose: () => out('Welcome to the faulty server!'),
  deaf: () => {
    out('Usage: faulty [options]');
    process.stdin.resume();
    setInterval(() => {}, 1000);
    server = null;
  },
  floods: () => {
    server = null;
    const line = 'snow '.repeat(200);
    setInterval(() => {
      for (let count = 0; count < 100; count++) out(line);
    }, 1);
  },
  stubborn: () => {
    for (const signal of ['SIGTERM', 'SIGINT'] as const) process.on(signal, () => process.stderr.write('faulty: no\n'));
    setInterval(() => {}, 1000);
  },
};

const whole: Whole = {
  list: 'usual',
  changed: () => out(JSON.stringify({ jsonrpc: '2.0', method: 'notifications/tools/list_changed' })),
};
let server: ((message: Message) => void) | null = (message) => {
  if (message.params?.name === 'ends' || message.params?.name === 'drops') {
    process.stderr.write('faulty: the rope has slipped\n');
    process.exit(message.params.name === 'ends' ? 0 : 1);
  }
  answer(message, whole, {
    send: (said) => out(JSON.stringify(said)),
    babble: out,
    status: () => {},
    cut: () => {},
  });
};
if (values.child) {
  const child = spawn(process.execPath, ['-e', 'setInterval(() => {}, 1000)'], { stdio: 'ignore' });
  process.stderr.write(`faulty: child ${child.pid}\n`);
}
(STARTS[values.fault] ?? STARTS.none!)();
createInterface({ input: process.stdin }).on('line', (line) => server?.(JSON.parse(line) as Message));
