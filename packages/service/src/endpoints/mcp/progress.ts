import type { LiveEvent } from '@pindro/core';
import type { Bus } from '../../platform/events.js';

type Listener = (live: LiveEvent) => void;

/** Hands what happens in runs to those who follow one, with one ear on the bus for all of them. */
export class RunWatch {
  readonly #listeners = new Map<string, Listener>();
  readonly #hear = ({ run, live }: { run: string; live: LiveEvent }) => this.#listeners.get(run)?.(live);

  constructor(private readonly bus: Bus) {}

  /** @returns stops listening to the run */
  follow(run: string, listener: Listener): () => void {
    if (this.#listeners.size === 0) this.bus.on('live', this.#hear);
    this.#listeners.set(run, listener);
    return () => {
      this.#listeners.delete(run);
      if (this.#listeners.size === 0) this.bus.off('live', this.#hear);
    };
  }
}

/** Levels of RFC 5424 as MCP uses them (server/utilities/logging), the least first. */
export const LEVELS = ['debug', 'info', 'notice', 'warning', 'error', 'critical', 'alert', 'emergency'] as const;
export type Level = (typeof LEVELS)[number];

/** Message and log level of an event for a client. */
export function asLog(live: LiveEvent): { level: Level; text: string } | null {
  switch (live.kind) {
    case 'step': {
      const level =
        live.state === 'failed'
          ? 'error'
          : live.state === 'waiting'
            ? 'notice'
            : live.state === 'done'
              ? 'info'
              : 'debug';
      const took = live.ms === undefined ? '' : ` after ${Math.round(live.ms)} ms`;
      return { level, text: `Step ${live.path} is ${live.state}${took}` };
    }
    case 'call':
      return { level: 'info', text: `Step ${live.path} is calling ${live.label}` };
    case 'said':
      return LEVELS.includes(live.level as Level)
        ? { level: live.level as Level, text: `${live.tool}: ${live.text}` }
        : null;
    case 'called':
      return { level: live.failed ? 'warning' : 'info', text: `${live.tool} ${live.failed ? 'failed' : 'answered'}` };
    default:
      return null;
  }
}

type Progress = Extract<LiveEvent, { kind: 'progress' }>;

/** How much of its step a tool has done, from 0 to 1; without a total it comes ever nearer to 1. */
export function partOf({ progress, total }: Progress): number {
  const part = total !== null && total > 0 ? progress / total : 1 - 1 / (1 + Math.max(0, progress));
  return Math.min(0.999, Math.max(0, part));
}

export const sayProgress = ({ tool, progress, total, message }: Progress): string =>
  message || `${tool.replaceAll('_', ' ')}: ${progress}${total === null ? '' : ` of ${total}`}`;
