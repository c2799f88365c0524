import { type Command, CommanderError, type CommandUnknownOpts } from '@commander-js/extra-typings';
import { EXIT, report } from './context.js';
import { renameFormer } from './renamed.js';
import { usage } from './usage.js';

/** Runs the command of the process's arguments. @param program with its commands */
export async function run(program: Command): Promise<void> {
  // Whoever reads only the beginning, as "| head" does, has read enough.
  process.stdout.on('error', (error: NodeJS.ErrnoException) => {
    if (error.code === 'EPIPE') process.exit(process.exitCode ?? EXIT.done);
    throw error;
  });
  const { args, notices } = renameFormer(process.argv.slice(2));
  for (const notice of notices) process.stderr.write(`${notice}\n`);
  const asJson = args.includes('--json');
  const override = (command: CommandUnknownOpts): void => {
    command.exitOverride();
    // Programs receive the problem as JSON only.
    if (asJson) command.configureOutput({ writeErr: () => {} });
    for (const inner of command.commands) override(inner);
  };
  override(program);
  try {
    await program.parseAsync(args, { from: 'user' });
  } catch (error) {
    if (!(error instanceof CommanderError)) throw error;
    process.exitCode = error.exitCode === 0 ? EXIT.done : EXIT.usage;
    if (asJson && error.exitCode !== 0) {
      const [why = '', fix] = error.message.replace(/^error: /, '').split('\n');
      report(usage(why, fix?.replace(/[()]/g, '')), true);
    }
  }
}
