import { createInterface } from 'node:readline/promises';
import { Writable } from 'node:stream';

/** Reads a secret: from a pipe as it is, at a terminal without showing what is typed. Never from the command line, which others can see. */
export async function readSecret(question: string): Promise<string> {
  if (!process.stdin.isTTY) {
    let text = '';
    for await (const piece of process.stdin) text += piece;
    return text.trim();
  }
  process.stderr.write(question);
  const silent = new Writable({ write: (_piece, _encoding, done) => done() });
  const lines = createInterface({ input: process.stdin, output: silent, terminal: true });
  const answer = await lines.question('');
  lines.close();
  process.stderr.write('\n');
  return answer.trim();
}
