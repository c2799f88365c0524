import { type Command, Option } from '@commander-js/extra-typings';
import { type KeySummary, RESOURCE } from '@pindro/contract';
import pc from 'picocolors';
import { withService } from '../context.js';
import { collectOne, collectText } from '../input/pairs.js';
import { facts, moment, table } from '../output/table.js';
import { usage } from '../usage.js';
import { wholeVerbs } from './common-verbs.js';
import { wholeNumber } from './table.js';

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
  const key = program
    .command('key')
    .description('access keys: issue, list, show, update, copy, rotate, revoke, remove');

  issueCommand(key);
  listCommand(key);
  updateCommand(key);
  copyCommand(key);

  wholeVerbs(key, RESOURCE.key, {
    named: '<id>',
    show: async (client, [id]) => {
      const one = await client.getKey({ id: id! });
      const attributes = Object.entries(one.attributes).map(([name, value]) => `${name}=${JSON.stringify(value)}`);
      const text = facts([
        ['key', `${one.name}  ${pc.dim(`${one.id}, begins ${one.beginning}`)}`],
        ['calls for', `${one.caller} ${attributes.join(' ')}`.trim()],
        ['opens', [...one.endpoints, ...(one.manage ? ['API'] : [])].join(', ') || '-'],
        ['sees', one.stage === 'live' ? 'live revisions' : 'drafts'],
        ['limits', limitsOf(one)],
        ['issued', moment(one.createdAt)],
        ['last used', moment(one.lastUsedAt)],
        ...(one.revokedAt ? [['revoked', moment(one.revokedAt)] as [string, string]] : []),
      ]);
      return { value: one, text };
    },
  });

  rotateCommand(key);
  revokeCommand(key);
}

function issueCommand(key: Command): void {
  key
    .command('issue <name>')
    .description('issues an access key and shows it once')
    .option('--endpoint <name>', 'endpoint it grants access to; repeatable', collectOne, [])
    .option('--caller <id>', 'on whose behalf its holder calls; the name of the key by default')
    .option('--attribute <name=value>', 'available as caller.NAME in expressions', collectText, {})
    .addOption(
      new Option('--stage <stage>', 'whether it uses drafts or live revisions')
        .choices(['draft', 'live'])
        .default('live'),
    )
    .option('--tool <name>', 'tool it grants access to; repeatable', collectOne, [])
    .option('--read-only', 'read-only tools only', false)
    .option('--per-minute <calls>', 'rate limit in calls per minute', wholeNumber)
    .option('--expires <duration>', 'expires after, such as 90d')
    .option('--propose', 'on the workshop: may also read whole flows and propose changes', false)
    .option('--credential <server=name>', "its holder's own credential for a tool server; repeatable", collectText, {})
    .option('--manage', 'also grants access to the API', false)
    .action(
      withService(async ({ client, print, json }, [name], options) => {
        if ((options.endpoint as string[]).length === 0 && !options.manage)
          throw usage(
            `A key named "${name}" would grant access to nothing`,
            'Add --endpoint NAME ("*" for all, hook/PATH for a webhook), or --manage for the API.',
          );
        const issued = await client.issueKey({
          body: {
            name,
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
        // The key alone on standard output, so that a script can take it.
        print(issued, issued.key);
        const [endpoint] = issued.summary.endpoints;
        const connect = endpoint ? ` Client settings: pindro endpoint connect ${endpoint} --for KEY.` : '';
        if (!json)
          process.stderr.write(
            `${pc.dim(`Shown only once. Send it as "Authorization: Bearer KEY".${connect} ID to revoke it: ${issued.summary.id}`)}\n`,
          );
      }),
    );
}

function listCommand(key: Command): void {
  key
    .command('list [words]')
    .description('lists access keys without the keys themselves, optionally filtered by words')
    .action(
      withService(async ({ client, print }, [search]) => {
        const { items } = await client.listKeys({ query: search ? { search } : {} });
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
            : search
              ? 'No matching access keys.'
              : 'No access keys yet. Issue one with "pindro key issue NAME --endpoint ENDPOINT".',
        );
      }),
    );
}

function updateCommand(key: Command): void {
  key
    .command('update <id>')
    .description('changes the name and scope of a key; its holder keeps using it')
    .option('--name <name>', 'name of the key')
    .option('--endpoint <name>', 'replaces all endpoints; repeatable, "" for none', collectOne, [])
    .option('--caller <id>', 'on whose behalf its holder calls')
    .option(
      '--attribute <name=value>',
      'available as caller.NAME in expressions; replaces all of them',
      collectText,
      {},
    )
    .addOption(new Option('--stage <stage>', 'whether it uses drafts or live revisions').choices(['draft', 'live']))
    .option('--tool <name>', 'tool it grants access to; repeatable, "" for all', collectOne, [])
    .option('--read-only', 'read-only tools only')
    .option('--no-read-only', 'also tools with side effects')
    .option('--per-minute <calls>', 'rate limit in calls per minute; 0 for no limit', Number)
    .option('--expires <duration>', 'expires after this duration from now, such as 90d; never for no expiry')
    .action(
      withService(async ({ client, print }, [id], options) => {
        const { name, caller, stage, readOnly, perMinute, expires } = options;
        const [endpoints, tools] = [options.endpoint as string[], options.tool as string[]];
        const attributes = options.attribute as Record<string, string>;
        const body = {
          ...(name !== undefined && { name }),
          ...(caller !== undefined && { caller }),
          ...(stage !== undefined && { stage: stage as 'live' }),
          ...(readOnly !== undefined && { readOnly: Boolean(readOnly) }),
          ...(perMinute !== undefined && { perMinute: Number(perMinute) || null }),
          ...(expires !== undefined && { expires: expires === 'never' ? null : expires }),
          ...(endpoints.length > 0 && { endpoints: endpoints.filter(Boolean) }),
          ...(tools.length > 0 && { tools: tools.some(Boolean) ? tools.filter(Boolean) : null }),
          ...(Object.keys(attributes).length > 0 && { attributes }),
        };
        const now = await client.updateKey({ id, body });
        print(now, `${pc.green('✓')} ${now.name} opens ${now.endpoints.join(', ') || 'nothing'}; ${limitsOf(now)}`);
      }),
    );
}

function copyCommand(key: Command): void {
  key
    .command('copy <id> <name>')
    .description('issues a key with the same scope for somebody else, and shows it once')
    .option('--caller <id>', 'on whose behalf its holder calls; the name of the key by default')
    .action(
      withService(async ({ client, print }, [id, name], { caller }: { caller?: string }) => {
        const issued = await client.copyKey({ id, body: { name, ...(caller && { caller }) } });
        print(issued, `${pc.bold(issued.key)}\n${pc.dim(`Shown only once. ID: ${issued.summary.id}`)}`);
      }),
    );
}

function rotateCommand(key: Command): void {
  key
    .command('rotate <id>')
    .description('issues a replacement with the same scope; the old key remains valid for an overlap')
    .option('--overlap <duration>', 'how long the old key remains valid', '24h')
    .action(
      withService(async ({ client, print }, [id], options: { overlap?: string }) => {
        const overlap = options.overlap ?? '24h';
        const issued = await client.rotateKey({ id, body: { overlap } });
        print(
          issued,
          `${pc.bold(issued.key)}\n${pc.dim(`Shown only once. The old key expires in ${overlap}; revoke it sooner with "pindro key revoke ${id}".`)}`,
        );
      }),
    );
}

function revokeCommand(key: Command): void {
  key
    .command('revoke <id>')
    .description('revokes a key immediately and ends its sessions')
    .action(
      withService(async ({ client, print }, [id]) => {
        const revoked = await client.revokeKey({ id });
        print(revoked, `${pc.green('✓')} Revoked ${revoked.name}`);
      }),
    );
}
