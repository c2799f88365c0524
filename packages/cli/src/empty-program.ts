import { readFileSync } from 'node:fs';
import { Command, Help } from '@commander-js/extra-typings';
import { findConnection } from './settings.js';

const { version } = JSON.parse(readFileSync(new URL('../package.json', import.meta.url), 'utf8')) as {
  version: string;
};

/** Returns the command-line program without commands: its options, help and errors. */
export function emptyProgram(): Command {
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
  return program;
}
