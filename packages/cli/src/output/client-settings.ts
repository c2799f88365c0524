import type { ClientSettings } from '@pindro/contract';
import pc from 'picocolors';

/** Settings for every shape of client, each ready to paste. */
export function showSettings(settings: ClientSettings[]): string {
  return settings.map((one) => `${pc.bold(one.title)}\n${pc.dim(one.about)}\n\n${one.text}\n`).join('\n');
}
