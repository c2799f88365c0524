import { createInterface } from 'node:readline/promises';
import { QuietFailure } from '../context.js';
import { usage } from '../usage.js';

/**
 * Asks a question that only "y" or "yes" confirms.
 * @throws usage without a terminal unless `--yes` is given; QuietFailure for any other answer
 */
export async function requireYes(question: string, json: boolean): Promise<void> {
  if (json || !process.stdin.isTTY || !process.stderr.isTTY)
    throw usage('This command asks for confirmation, but there is no terminal', 'Add --yes to confirm.');
  const terminal = createInterface({ input: process.stdin, output: process.stderr });
  try {
    const answer = await terminal.question(`${question} [y/N] `);
    if (/^y(es)?$/i.test(answer.trim())) return;
    process.stderr.write('Nothing was changed.\n');
    throw new QuietFailure();
  } finally {
    terminal.close();
  }
}
