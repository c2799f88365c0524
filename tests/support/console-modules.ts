import { createServer, type ViteDevServer } from 'vite';

const ROOT = new URL('../../../packages/console', import.meta.url).pathname;

/** Modules of the console as Node can run them: what is computed without a page. */
export class ConsoleModules {
  #server: ViteDevServer | null = null;

  async open(): Promise<void> {
    this.#server = await createServer({
      ...{ root: ROOT, configFile: `${ROOT}/vite.config.ts`, logLevel: 'error', appType: 'custom' },
      server: { middlewareMode: true, hmr: false, watch: null },
      optimizeDeps: { noDiscovery: true, include: [] },
    });
  }

  /** @param path below `src` */
  async load<T>(path: string): Promise<T> {
    return (await this.#server!.ssrLoadModule(`/src/${path}`)) as T;
  }

  async close(): Promise<void> {
    await this.#server?.close();
  }
}

/** Modules for the tests of one `describe`. */
export function consoleModules(): ConsoleModules {
  const modules = new ConsoleModules();
  before(() => modules.open());
  after(() => modules.close());
  return modules;
}
