import type { ModelTranscript, TranscriptMessage } from '@pindro/core/browser';
import pc from 'picocolors';

const WHO: Record<TranscriptMessage['role'], string> = {
  system: 'told',
  user: 'asked',
  assistant: 'said',
  tool: 'got',
};
const WIDTH = 8;

/** A conversation as its model saw it, a paragraph for each message. */
export function showTranscript({ model, messages, isCut }: ModelTranscript): string[] {
  return [
    '',
    `${pc.bold('Messages to the model')} ${pc.dim(`on ${model}`)}`,
    ...(isCut ? [pc.dim('The beginning was too long to record; the record starts at the message.')] : []),
    ...messages.flatMap(({ role, text, calls, tool, failed, earlier, reasoning }) => {
      const who = `${WHO[role]}${failed ? '!' : ''}`.padEnd(WIDTH);
      const said = [
        ...(reasoning ? [`(thinks) ${reasoning}`] : []),
        ...(text || calls.length === 0 ? [`${tool ? `${tool}: ` : ''}${text || '(nothing)'}`] : []),
        ...calls.map((call) => `calls ${call.name} ${JSON.stringify(call.arguments)}`),
      ];
      const lines = said.flatMap((one) => one.split('\n'));
      const shown = lines.map((line, index) => `${index === 0 ? who : ' '.repeat(WIDTH)} ${line}`);
      return earlier ? shown.map((line) => pc.dim(line)) : shown;
    }),
  ];
}
