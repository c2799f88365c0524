import type { Speaks } from '@pindro/contract';
import { ADDRESS_TRANSPORTS, isObject, PindroError, type ToolDescription, TRANSPORTS } from '@pindro/core';
import { CONNECT_LIMIT, ServerConnection } from './connection/connection.js';

type Way = Omit<ConstructorParameters<typeof ServerConnection>[0], 'speaks' | 'onLost' | 'onToolsChanged'>;

/** What a server said when it was asked for the first time. */
export interface Said {
  speaks: Speaks;
  tools: ToolDescription[];
  about: string;
  instructions: string;
}

/**
 * Connects once as told, to see what answers. How the server speaks is found by trying, the newest way first, as the
 * protocol has it for clients that know both.
 * @param speaks how it is said to speak; that is tried first
 */
export async function askServer(way: Way, speaks?: Speaks): Promise<Said> {
  if (speaks && TRANSPORTS[speaks].reaches === 'program') return ask(way, speaks);
  const others = ADDRESS_TRANSPORTS.filter((one) => one !== speaks);
  const first = speaks ?? others.shift()!;
  try {
    return await ask(way, first);
  } catch (error) {
    if (!speaksOtherwise(error)) throw error;
    for (const other of others) {
      const said = await ask(way, other).catch((tried: unknown) => {
        // It speaks that way, and only wants a key: what was tried before says less.
        if (tried instanceof PindroError && tried.code === 'server_wants_key') throw tried;
        return null;
      });
      if (said) return said;
    }
    throw error;
  }
}

async function ask(way: Way, speaks: Speaks): Promise<Said> {
  const trial = new ServerConnection({ ...way, speaks });
  try {
    const tools = await trial.tools(AbortSignal.timeout(CONNECT_LIMIT * 2));
    way.parts?.done('allow', trial.hasSecrets() ? 'with the given credentials' : 'without a key');
    way.parts?.done('list', `${tools.length} ${tools.length === 1 ? 'tool' : 'tools'}`);
    return { speaks, tools, about: trial.about(), instructions: trial.instructions() };
  } finally {
    await trial.close();
  }
}

/** Whether something answered that may be a server of another age: it knows the address, but not the way. */
function speaksOtherwise(error: unknown): boolean {
  if (!(error instanceof PindroError)) return false;
  if (error.code === 'server_lost') return true;
  const status = isObject(error.details) ? error.details.status : undefined;
  return error.code === 'server_not_mcp' && (status === undefined || (Number(status) >= 400 && Number(status) < 500));
}
