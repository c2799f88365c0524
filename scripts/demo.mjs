import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { prepare, root } from './prepare.mjs';

prepare();
const child = spawn(process.execPath, [join(root, 'packages/cli/bin/pindro.js'), 'demo', ...process.argv.slice(2)], {
  stdio: 'inherit',
});
// An interrupt at the terminal reaches the child by itself; one sent to this process alone is passed on.
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => child.kill(signal));
child.on('exit', (code, signal) => process.exit(code ?? (signal ? 1 : 0)));
