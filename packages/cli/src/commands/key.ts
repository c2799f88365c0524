import type { KeySummary } from '@pindro/contract';
import { type Command, InvalidArgumentError, Option } from 'commander';
import pc from 'picocolors';
import { withService } from '../context.js';
import { moment, table } from '../output/table.js';

const collect = (text: string, before: string[]) => [...before, text];
const collectAttribute = (text: string, before: Record<string, string>) => {
  const equals = text.indexOf('=');
  if (equals < 1) throw new InvalidArgumentError('Write it as name=value.');
  return { ...before, [text.slice(0, equals)]: text.slice(equals + 1) };
};

/** What a key is held to, in a few words. */
const limitsOf = ({ tools, readOnly, perMinute, propose, credentials, expiresAt }: KeySummary): string =>
  [
    tools && `only ${tools.join(', ')}`,
    readOnly && 'read-only',
    ...Object.entries(credentials).map(([server, name]) => `${server} with ${name}`),
    propose && 'may propose',
    perMinute !== null && `${perMinute} a minute`,
    expiresAt && `until ${moment(expiresAt)}`,
  ]
    .filter(Boolean)
    .join('; ') || '-';

export function keyCommands(program: Command): void {
  const key = program.command('key').description('access keys: issue, list, rotate, revoke');

  key
    .command('issue <name>')
    .description('issues an access key and shows it this once')
    .option('--endpoint <name>', 'an endpoint that it opens; may be given more than once', collect, [])
    .option('--caller <id>', 'on whose behalf its holder calls; the name of the key if left out')
    .option('--attribute <name=value>', 'usable as caller.NAME in expressions', collectAttribute, {})
    .addOption(
      new Option('--stage <stage>', 'whether it sees drafts or what is live')
        .choices(['draft', 'live'])
        .default('live'),
    )
    .option('--tool <name>', 'the only tool it opens; may be given more than once', collect, [])
    .option('--read-only', 'opens only tools that change nothing', false)
    .option('--per-minute <calls>', 'how many calls a minute it may make', Number)
    .option('--expires <duration>', 'after how long it ends, such as 90d')
    .option('--propose', 'on the workshop: may also read flows whole and propose changes', false)
    .option(
      '--credential <server=name>',
      "a credential of its holder's own, for a tool server that is passed on with it; may be given more than once",
      collectAttribute,
      {},
    )
    .option('--manage', 'also opens the API', false)
    .action(
      withService(async ({ client, print }, [name], options: Record<string, unknown>) => {
        const issued = await client.issueKey({
          body: {
            name: name!,
            endpoints: options.endpoint as string[],
            attributes: options.attribute as Record<string, string>,
            stage: options.stage as 'live',
            readOnly: options.readOnly as boolean,
            ...((options.tool as string[]).length > 0 && { tools: options.tool as string[] }),
            ...(options.perMinute !== undefined && { perMinute: Number(options.perMinute) }),
            ...(options.expires !== undefined && { expires: String(options.expires) }),
            propose: options.propose as boolean,
            credentials: options.credential as Record<string, string>,
            manage: options.manage as boolean,
            ...(options.caller ? { caller: String(options.caller) } : {}),
          },
        });
        print(
          issued,
          `${pc.bold(issued.key)}\n${pc.dim(`Shown this once. Present it as "Authorization: Bearer KEY". Id for revoking: ${issued.summary.id}`)}`,
        );
      }),
    );

  key
    .command('list')
    .description('all access keys, without the keys themselves')
    .action(
      withService(async ({ client, print }) => {
        const { items } = await client.listKeys();
        const rows = items.map((one) => [
          one.id,
          one.beginning,
          one.name,
          one.caller,
          one.stage,
          [...one.endpoints, ...(one.manage ? ['API'] : [])].join(', ') || '-',
          limitsOf(one),
          one.revokedAt ? pc.red(`revoked ${moment(one.revokedAt)}`) : moment(one.lastUsedAt),
        ]);
        print({ items }, () =>
          items.length > 0
            ? table(['ID', 'BEGINS', 'NAME', 'CALLER', 'STAGE', 'OPENS', 'LIMITS', 'LAST USED'], rows)
            : 'No access key yet. Issue one with "pindro key issue NAME --endpoint ENDPOINT".',
        );
      }),
    );

  key
    .command('rotate <id>')
    .description('makes a key that opens the same; the old one is good for a while yet')
    .option('--overlap <duration>', 'how long the old key is still good', '24h')
    .action(
      withService(async ({ client, print }, [id], options: { overlap?: string }) => {
        const overlap = options.overlap ?? '24h';
        const issued = await client.rotateKey({ id: id!, body: { overlap } });
        print(
          issued,
          `${pc.bold(issued.key)}\n${pc.dim(`Shown this once. The old key ends after ${overlap}; revoke it sooner with "pindro key revoke ${id}".`)}`,
        );
      }),
    );

  key
    .command('revoke <id>')
    .description('revokes a key at once; its sessions end')
    .action(
      withService(async ({ client, print }, [id]) => {
        const revoked = await client.revokeKey({ id: id! });
        print(revoked, `${pc.green('✓')} ${revoked.name} is revoked`);
      }),
    );
}
