import { CommanderError, type CommandUnknownOpts } from '@commander-js/extra-typings';
import { EXIT, report } from './context.js';
import { buildProgram } from './program.js';
import { renameFormer } from './renamed.js';
import { usage } from './usage.js';

async function main(): Promise<void> {
  // Whoever reads only the beginning, as "| head" does, has read enough.
  process.stdout.on('error', (error: NodeJS.ErrnoException) => {
    if (error.code === 'EPIPE') process.exit(process.exitCode ?? EXIT.done);
    throw error;
  });
  const program = buildProgram();
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

// Not awaited: pieces that are loaded later import from here, which would wait for one another.
void main();
