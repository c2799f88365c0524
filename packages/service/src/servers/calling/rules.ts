import { X509Certificate } from 'node:crypto';
import type { Program, ServerLimits, ServerNetwork } from '@pindro/contract';
import {
  type ArgumentRules,
  argumentRules,
  isObject,
  type JsonObject,
  mistakesOf,
  PindroError,
  ruleMistakes,
  type ToolDescription,
  type Watch,
} from '@pindro/core';

import type { Authority } from '../../policy/authority.js';

/** Changeable settings of an attached server; omitted ones remain. */
export interface ServerChange {
  url?: string | undefined;
  /** The program that it is. */
  program?: Program | undefined;
  /** null removes it. */
  credential?: string | null | undefined;
  secret?: string | undefined;
  /** Additional credentials. */
  also?: string[] | undefined;
  /** Headers without secrets; replaces all of them. */
  headers?: Record<string, string> | undefined;
  rules?: JsonObject | undefined;
  limits?: ServerLimits | undefined;
  network?: ServerNetwork | undefined;
  watch?: Watch | undefined;
  on?: boolean | undefined;
  /** Also when it does not answer now. */
  skipTest?: boolean;
  /** Who changes it: only some may run programs of the machine. */
  by?: Authority | undefined;
  /** Asked in every way how it speaks, also where nothing else changes. */
  anew?: boolean;
}

/** Rules for every tool that has the argument. @throws request_invalid where a tool cannot have them */
export function requireFit(rules: ArgumentRules, tools: readonly ToolDescription[]): void {
  const has = (tool: ToolDescription, argument: string) =>
    isObject(tool.inputSchema.properties) && argument in tool.inputSchema.properties;
  const broken = tools.flatMap((tool) =>
    ruleMistakes(tool, Object.fromEntries(Object.entries(rules).filter(([argument]) => has(tool, argument)))),
  )[0];
  if (broken) throw new PindroError('request_invalid', { why: broken.message }, { at: `/rules${broken.at}` });
}

export function readRules(given: JsonObject): ArgumentRules {
  const parsed = argumentRules.safeParse(given);
  if (parsed.success) return parsed.data;
  const mistake = mistakesOf(parsed.error, given, ['rules'])[0]!;
  throw new PindroError('request_invalid', { why: mistake.message }, { at: mistake.at });
}

/** @throws request_invalid where the authorities are no certificates */
export function requireNetwork(network: ServerNetwork | undefined): void {
  const { ca } = network ?? {};
  if (ca === undefined) return;
  try {
    for (const one of ca.match(/-----BEGIN CERTIFICATE-----[\s\S]*?-----END CERTIFICATE-----/g) ?? [''])
      new X509Certificate(one);
  } catch {
    throw new PindroError(
      'request_invalid',
      { why: 'The authorities are not PEM certificates' },
      { at: '/network/ca' },
    );
  }
}
