import { readFileSync } from 'node:fs';
import { Command, Help } from '@commander-js/extra-typings';
import { approvalCommands } from './commands/approval.js';
import { backupCommands } from './commands/backup.js';
import { bridgeCommand } from './commands/bridge.js';
import { chatCommand } from './commands/chat.js';
import { credentialCommands } from './commands/credential.js';
import { documentCommands } from './commands/document.js';
import { endpointCommands } from './commands/endpoint.js';
import { entryCommands } from './commands/entry.js';
import { flowCommands } from './commands/flow.js';
import { keyCommands } from './commands/key.js';
import { labelCommands } from './commands/label.js';
import { memoryCommands } from './commands/memory.js';
import { metricsCommand } from './commands/metrics.js';
import { modelCommands } from './commands/model.js';
import { personCommands } from './commands/person.js';
import { plainCommands } from './commands/plain.js';
import { problemCommands } from './commands/problem.js';
import { rowCommands } from './commands/row.js';
import { runCommands } from './commands/run.js';
import { sampleCommands } from './commands/sample.js';
import { searchCommand } from './commands/search.js';
import { serveCommands } from './commands/serve.js';
import { serverCommands } from './commands/server.js';
import { statusCommands } from './commands/status.js';
import { tableCommands } from './commands/table.js';
import { undoCommand } from './commands/undo.js';
import { workshopCommands } from './commands/workshop.js';
import { workspaceCommands } from './commands/workspace.js';
import { findConnection } from './settings.js';

const { version } = JSON.parse(readFileSync(new URL('../package.json', import.meta.url), 'utf8')) as {
  version: string;
};

/** Returns the command-line program with all of its commands, without running it. */
export function buildProgram(): Command {
  const program = new Command('pindro')
    .description('Draw flows, serve them as MCP tools, attach other tool servers to agents, and see why a run failed.')
    .version(version)
    .option('--url <address>', 'address of the service (PINDRO_URL)')
    .option('--key <key>', 'access key for the API (better: PINDRO_KEY)')
    .option('--settings <file>', 'file with address and key (PINDRO_SETTINGS)')
    .option('--json', 'prints JSON for programs')
    .showHelpAfterError('Add --help for usage.')
    .showSuggestionAfterError()
    .exitOverride();
  program.addHelpText('after', () => {
    try {
      const { url, from } = findConnection(program.opts());
      return `\nService address: ${url} (from ${from}).`;
    } catch (error) {
      return `\n${(error as Error).message}.`;
    }
  });
  program.configureHelp({
    showGlobalOptions: true,
    // That a list of what is given begins empty helps nobody.
    optionDescription: (option) => new Help().optionDescription(option).replace(/ \(default: (?:\{\}|\[\])\)$/, ''),
  });
  serveCommands(program);
  statusCommands(program);
  searchCommand(program);
  flowCommands(program);
  endpointCommands(program);
  bridgeCommand(program);
  serverCommands(program);
  chatCommand(program);
  runCommands(program);
  problemCommands(program);
  metricsCommand(program);
  plainCommands(program);
  approvalCommands(program);
  memoryCommands(program);
  entryCommands(program);
  documentCommands(program);
  workspaceCommands(program);
  tableCommands(program);
  rowCommands(program);
  sampleCommands(program);
  labelCommands(program);
  keyCommands(program);
  personCommands(program);
  workshopCommands(program);
  credentialCommands(program);
  modelCommands(program);
  undoCommand(program);
  backupCommands(program);
  return program;
}
