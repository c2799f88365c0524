import { type FaultyServer, startFaultyServer } from '@pindro/standins';
import type { Kept } from '../state.js';

/** Tool servers that changed their tools after they were attached. */
export interface FlakyServer {
  /** One of its tools says something else of itself now. */
  reworded: FaultyServer;
  /** One of its tools wants an argument more. */
  stricter: FaultyServer;
}

export async function startFlakyServer({ ports, broken }: Kept): Promise<FlakyServer> {
  const reworded = await startFaultyServer({ port: ports.reworded ?? 0 });
  const stricter = await startFaultyServer({ port: ports.stricter ?? 0 });
  // What has changed stays changed when the demo is started again.
  if (broken) changeTheirMinds({ reworded, stricter });
  Object.assign(ports, { reworded: portOf(reworded.url), stricter: portOf(stricter.url) });
  return { reworded, stricter };
}

export function changeTheirMinds({ reworded, stricter }: FlakyServer): void {
  reworded.quietly('orders');
  stricter.quietly('stricter');
}

const portOf = (url: string) => Number(new URL(url).port);
