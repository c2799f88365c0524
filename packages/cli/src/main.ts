import { buildProgram } from './program.js';
import { run } from './run.js';

// Not awaited: pieces that are loaded later import from here, which would wait for one another.
void run(buildProgram());
