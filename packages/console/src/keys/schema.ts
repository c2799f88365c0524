import type { KeySummary } from '@pindro/contract/light';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import { exact } from '../state/format.js';

const EXPIRIES = { '1d': 'a day', '30d': '30 days', '90d': '90 days', '365d': 'a year' };

interface Around {
  /** The endpoint it is for, where it is made there. */
  endpoint?: string | undefined;
  /** Tools that can be chosen among, where the endpoint is known. */
  tools: string[];
  /** Servers whose tools are called with a credential of the caller's own. */
  ownServers: string[];
  workshop: boolean;
}

/** What a key may do, as a form. */
export function keySchema({ endpoint, tools, ownServers, workshop }: Around): JsonSchema {
  const own = ownServers.map((server): [string, JsonSchema] => [
    server,
    {
      form: 'credential',
      title: `Their own credential for ${server}`,
      common: true,
      description: 'Without one its tools are refused',
    },
  ]);
  return {
    type: 'object',
    required: ['caller'],
    properties: {
      caller: { type: 'string', title: 'For whom it calls' },
      ...(endpoint === undefined && {
        endpoints: {
          type: 'array',
          items: { form: 'endpoint' },
          title: 'Endpoints',
          description: 'Which it opens',
          common: true,
        },
      }),
      stage: {
        enum: ['live', 'draft'],
        words: { live: 'what is live', draft: 'drafts' },
        default: 'live',
        title: 'What it sees',
        common: true,
      },
      expires: {
        enum: Object.keys(EXPIRIES),
        words: EXPIRIES,
        title: 'How long it is good',
        common: true,
        description: 'Until it is revoked, if left out',
      },
      perMinute: { type: 'integer', minimum: 1, title: 'Calls a minute', common: true, description: 'At most so many' },
      attributes: {
        type: 'object',
        additionalProperties: {},
        title: 'What is known of them',
        common: true,
        description: 'Usable as caller.NAME in flows and rules',
      },
      readOnly: {
        type: 'boolean',
        default: false,
        title: 'Only those that change nothing',
        common: true,
        description: 'Which of the tools it opens',
      },
      tools: {
        type: 'array',
        uniqueItems: true,
        items: tools.length > 0 ? { enum: tools } : { type: 'string' },
        title: 'Only these tools',
        common: true,
        description: 'All of them, and those that come later, if left out',
      },
      ...(workshop && {
        propose: {
          type: 'boolean',
          default: false,
          title: 'Also read flows whole and propose changes',
          common: true,
          description: 'Nothing of it goes live by itself',
        },
      }),
      ...(own.length > 0 && {
        credentials: {
          type: 'object',
          properties: Object.fromEntries(own),
          default: {},
          title: 'Credentials of their own',
          common: true,
        },
      }),
    },
  };
}

export const valueOfKey = (key: KeySummary): JsonObject => ({
  caller: key.caller,
  endpoints: key.endpoints,
  stage: key.stage,
  ...(key.perMinute !== null && { perMinute: key.perMinute }),
  ...(Object.keys(key.attributes).length > 0 && { attributes: key.attributes as JsonObject }),
  ...(key.readOnly && { readOnly: true }),
  ...(key.tools && { tools: key.tools }),
  ...(key.propose && { propose: true }),
  ...(Object.keys(key.credentials).length > 0 && { credentials: key.credentials }),
});

/** What a key is limited to, in words. */
export const limitsOf = (key: KeySummary): string =>
  [
    key.tools && `only ${key.tools.join(', ')}`,
    key.readOnly && 'only what reads',
    key.propose && 'may propose',
    ...Object.entries(key.credentials).map(([server, name]) => `${server} with ${name}`),
    key.perMinute && `${key.perMinute} calls a minute`,
    key.expiresAt && `until ${exact(key.expiresAt)}`,
    key.manage && 'opens the API',
  ]
    .filter(Boolean)
    .join('; ') || 'none';
