import type { Command, CommandUnknownOpts } from '@commander-js/extra-typings';
import { EXIT } from '../context.js';
import { findConnection } from '../settings.js';

export function bridgeCommand(program: Command): void {
  program
    .command('bridge <endpoint>')
    .description('connects a stdio client to an endpoint; the key comes from PINDRO_KEY')
    .action(async function (this: CommandUnknownOpts, endpoint) {
      const { url, key } = findConnection(this.optsWithGlobals());
      const say = (text: string) => void process.stderr.write(`pindro bridge: ${text}\n`);
      try {
        // Loaded when it is needed: every other command starts sooner without an MCP client in it.
        const { bridge } = await import('../bridge/bridge.js');
        await bridge({ url: `${url}/mcp/${encodeURIComponent(endpoint)}`, key, say });
      } catch (error) {
        if ((error as Error).constructor.name !== 'Rejected') say((error as Error).message);
        process.exitCode = EXIT.failed;
      }
    });
}
