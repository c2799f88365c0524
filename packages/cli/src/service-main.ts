import { serveCommands } from './commands/serve.js';
import { emptyProgram } from './empty-program.js';
import { run } from './run.js';

/* The entry of the commands that run a service, which stay: other commands would take memory. */
const program = emptyProgram();
serveCommands(program);
void run(program);
