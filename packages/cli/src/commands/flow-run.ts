import { type Command, InvalidArgumentError, Option } from '@commander-js/extra-typings';
import type { Client, Outcome, Preview } from '@pindro/contract';
import { type JsonObject, type JsonSchema, jsonMistake } from '@pindro/core/browser';
import pc from 'picocolors';
import { type Context, QuietFailure, withService } from '../context.js';
import { collectText, readTexts } from '../input/pairs.js';
import { showReceipt } from '../output/receipt.js';
import { brief, state } from '../output/table.js';
import { askedFor, showValues } from '../output/values.js';

/** Running a flow, and what its models will be sent. */
export function flowRunCommands(flow: Command): void {
  flow
    .command('preview <name> <step>')
    .description('previews the first model request of a draft step, without sending it')
    .option('-i, --input <json>', 'the whole input', readJson)
    .option(
      '-s, --set <name=value>',
      'one input, parsed as the type that the flow declares; NAME=? lists its values',
      collectText,
      {},
    )
    .option('--session <name>', 'the conversation to continue')
    .action(
      withService(async ({ client, print }, [name, step], options) => {
        const input = await inputOf(client, name, options);
        const body = {
          step,
          input,
          ...(options.session ? { session: String(options.session) } : {}),
        };
        const preview = await client.previewModel({ name, body });
        print(preview, () => showPreview(preview));
      }),
    );

  flow
    .command('run <name>')
    .description('runs a flow and shows its result')
    .option('-i, --input <json>', 'the whole input', readJson)
    .option(
      '-s, --set <name=value>',
      'one input, parsed as the type that the flow declares; NAME=? lists its values',
      collectText,
      {},
    )
    .addOption(new Option('--stage <stage>', 'draft or live').choices(['draft', 'live']).default('draft'))
    .option('--session <name>', 'the conversation it belongs to')
    .option('--capture', 'captures every request and response; see "pindro run exchanges"')
    .action(
      withService(async ({ client, print, progress }, [name], options) => {
        const [asked] = askedFor(options.set as Record<string, string>);
        if (asked !== undefined) {
          const { [asked]: _, ...rest } = options.set as Record<string, string>;
          const shown = await showValues(client, { flow: name, argument: asked, arguments: rest });
          return print(shown.value, shown.text);
        }
        const input = await inputOf(client, name, options);
        progress(`running ${name} …`);
        const outcome = await client.runFlow({
          name,
          body: {
            input,
            stage: options.stage as 'draft',
            ...(options.session ? { session: String(options.session) } : {}),
            ...(options.capture === true && { capture: true }),
          },
        });
        showOutcome({ print }, outcome);
      }),
    );
}

/** The input of a flow, in which a value of --set has the type that the flow declares. */
async function inputOf(
  client: Client,
  name: string,
  options: { set: Record<string, string>; input?: unknown },
): Promise<JsonObject> {
  const texts = options.set;
  const { document } = Object.keys(texts).length > 0 ? await client.getFlow({ name }) : { document: {} };
  const schema = ((document as JsonObject).input ?? {}) as JsonSchema;
  return { ...(options.input as JsonObject | undefined), ...readTexts(texts, schema) };
}

/** What a model will be sent, as people read it. */
function showPreview({ model, connection, system, tools, turns, tokens, left }: Preview): string {
  const all = tokens.system + tokens.tools + tokens.turns;
  return [
    `To ${pc.bold(model)} of ${connection}, about ${all} tokens`,
    ...(left.length > 0 ? [pc.yellow(`omitted, because it does not fit: ${left.join(', ')}`)] : []),
    '',
    pc.dim(`instructions, ${tokens.system} tokens`),
    system || '(none)',
    '',
    pc.dim(`tools, ${tokens.tools} tokens`),
    ...tools.flatMap((tool) => [
      `${pc.bold(tool.name)}  ${brief(tool.description, 120)}`,
      ...(tool.lost.length > 0 ? [pc.yellow(`  sent as text only: ${tool.lost.join('; ')}`)] : []),
    ]),
    '',
    pc.dim(`conversation, ${tokens.turns} tokens`),
    ...turns.map(({ role, tool, text }) => `${pc.cyan(tool ?? role)}  ${text || '(calls tools)'}`),
  ].join('\n');
}

export function showOutcome({ print }: Pick<Context, 'print'>, outcome: Outcome): void {
  const result = typeof outcome.result === 'string' ? outcome.result : JSON.stringify(outcome.result, null, 2);
  if (outcome.state === 'waiting' || outcome.state === 'running') {
    const what = outcome.waitsFor?.what ?? 'The run continues automatically';
    print(outcome, `${state(outcome.state)}  ${what}\n${pc.dim(`pindro run show ${outcome.run}`)}`);
    return;
  }
  const failed = outcome.state !== 'done';
  print(outcome, () =>
    failed
      ? [
          ...showReceipt(outcome.receipt),
          `${pc.red('✗')} ${outcome.error?.message ?? outcome.state}`,
          ...(outcome.error?.hint ? [`  ${outcome.error.hint}`] : []),
          `  ${pc.dim(`pindro run show ${outcome.run}`)}`,
        ].join('\n')
      : `${[...showReceipt(outcome.receipt), result].join('\n')}\n${pc.dim(`${state('done')}  pindro run show ${outcome.run}`)}`,
  );
  if (failed) throw new QuietFailure();
}

export function readJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch (error) {
    throw new InvalidArgumentError(`The input is not JSON: ${jsonMistake(error)}`);
  }
}
