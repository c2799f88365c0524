import type { Command } from '@commander-js/extra-typings';
import { withService } from '../context.js';
import { showFix } from '../output/fix.js';

/** Adds `run cure`, which applies the fix that a finding proposes. */
export function registerRunFix(run: Command): void {
  run
    .command('fix <id>')
    .description('applies the fix that a finding of the run proposes')
    .option('--finding <fingerprint>', 'finding to fix, if several propose a fix')
    .option('--dry-run', 'only tests the fix, on recorded runs with the same finding; changes nothing')
    .option('--publish', 'publishes the flow whose draft the fix changes')
    .option('--retry', 'retries the run afterwards')
    .action(
      withService(async ({ client, print }, [id], options) => {
        const { finding, publish, retry, dryRun: only } = options;
        const body = { ...(finding && { finding }), ...(only && { try: true }), ...(publish && { publish: true }) };
        const answer = await client.fixRun({ id, body });
        const retried =
          retry && answer.made ? await client.retryRun({ id, body: publish ? { on: 'live' } : {} }) : null;
        print(retried ? { ...answer, retried } : answer, () => showFix(id, answer, retried));
        if (answer.checked?.fine === false || (retried && retried.state !== 'done')) process.exitCode = 1;
      }),
    );
}
