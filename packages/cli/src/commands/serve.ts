import { type Command, Option } from '@commander-js/extra-typings';
import { report } from '../context.js';
import type { DemoOptions as Demo } from '../demo/demo.js';
import { type ServeOptions, serveOptions } from '../serve/options.js';

type DemoOptions = Demo & { standin?: 'lift' };

/*
 * What starts the service is heavy and loaded only when it is asked for; the other commands do not wait for it.
 */
export function serveCommands(program: Command): void {
  serveOptions(program.command('serve').description('starts the service'), '.pindro/data').action(
    starting<ServeOptions>(async (options) => {
      const { serve } = await import('../serve/serve.js');
      await serve(options);
    }),
  );

  serveOptions(
    program.command('demo').description('starts the service with demo data of the Alder Ridge Huts'),
    '.pindro/demo',
  )
    .addOption(
      new Option('--standin <name>', 'restarts only this simulated external service of a demo').choices(['lift']),
    )
    .option('--broken', 'provokes a failing run for each finding')
    .action(
      starting<DemoOptions>(async (options, command) => {
        const { demo, liftAgain } = await import('../demo/demo.js');
        if (options.standin) await liftAgain(options.data);
        else await demo(options, command.getOptionValueSource('port') === 'default');
      }),
    );
}

/** Runs what stays; when it cannot start, says why and ends, whatever has been started by then. */
function starting<O extends ServeOptions>(work: (options: O, command: Command) => Promise<void>) {
  return async (_given: unknown, command: Command): Promise<void> => {
    const options = command.optsWithGlobals() as O;
    await work(options, command).catch((error: unknown) => process.exit(report(error, options.json === true)));
  };
}
