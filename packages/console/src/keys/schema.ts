import type { KeySummary } from '@pindro/contract/light';
import type { JsonObject, JsonSchema } from '@pindro/core/browser';
import { exact } from '../state/format.js';

const EXPIRIES = { '1d': 'a day', '30d': '30 days', '90d': '90 days', '365d': 'a year' };

interface Surround {
  /** The endpoint it is for, where it is made there. */
  endpoint?: string | undefined;
  /** Tools that can be chosen among, where the endpoint is known. */
  tools: string[];
  /** Servers whose tools are called with a credential of the caller's own. */
  ownServers: string[];
  workshop: boolean;
}

/** What a key may do, as a form. */
export function keySchema({ endpoint, tools, ownServers, workshop }: Surround): JsonSchema {
  const own = ownServers.map((server): [string, JsonSchema] => [
    server,
    {
      form: 'credential',
      title: `Own credential for ${server}`,
      common: true,
      description: 'Without one, calls of its tools are rejected',
    },
  ]);
  return {
    type: 'object',
    required: ['caller'],
    properties: {
      caller: { type: 'string', title: 'Caller' },
      ...(endpoint === undefined && {
        endpoints: {
          type: 'array',
          items: { form: 'endpoint' },
          title: 'Endpoints',
          description: 'Endpoints it grants access to',
          common: true,
        },
      }),
      stage: {
        enum: ['live', 'draft'],
        words: { live: 'live revisions', draft: 'drafts' },
        default: 'live',
        title: 'Stage',
        common: true,
      },
      expires: {
        enum: Object.keys(EXPIRIES),
        words: EXPIRIES,
        title: 'Expires',
        common: true,
        description: 'Never by default',
      },
      perMinute: {
        type: 'integer',
        minimum: 1,
        title: 'Rate limit',
        common: true,
        description: 'Maximum calls per minute',
      },
      attributes: {
        type: 'object',
        additionalProperties: {},
        title: 'Attributes',
        common: true,
        description: 'Available as caller.NAME in flows and rules',
      },
      readOnly: {
        type: 'boolean',
        default: false,
        title: 'Read-only tools only',
        common: true,
        description: 'Which tools it grants access to',
      },
      tools: {
        type: 'array',
        uniqueItems: true,
        items: tools.length > 0 ? { enum: tools } : { type: 'string' },
        title: 'Tools',
        common: true,
        description: 'All tools, including future ones, by default',
      },
      ...(workshop && {
        propose: {
          type: 'boolean',
          default: false,
          title: 'Read whole flows and propose changes',
          common: true,
          description: 'Proposals do not go live without a person',
        },
      }),
      ...(own.length > 0 && {
        credentials: {
          type: 'object',
          properties: Object.fromEntries(own),
          default: {},
          title: 'Own credentials',
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

/** Describes the restrictions of a key. */
export const limitsOf = (key: KeySummary): string =>
  [
    key.tools && `only ${key.tools.join(', ')}`,
    key.readOnly && 'read-only tools',
    key.propose && 'may propose',
    ...Object.entries(key.credentials).map(([server, name]) => `${server} with ${name}`),
    key.perMinute && `${key.perMinute} calls a minute`,
    key.expiresAt && `until ${exact(key.expiresAt)}`,
    key.manage && 'API access',
  ]
    .filter(Boolean)
    .join('; ') || 'none';
