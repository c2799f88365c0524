import type { Plugin } from 'vite';

const NAME = 'virtual:pindro-addresses';

/** The addresses of the API without their schemas, which would be half of what a page has to load. */
export function addresses(): Plugin {
  return {
    name: 'pindro-addresses',
    resolveId: (id) => (id === NAME ? `\0${NAME}` : undefined),
    async load(id) {
      if (id !== `\0${NAME}`) return undefined;
      const { routes } = await import('@pindro/contract');
      const slim = Object.entries(routes).map(([name, route]) => [
        name,
        { method: route.method, path: route.path, ...('stream' in route && { stream: true }) },
      ]);
      return `export default ${JSON.stringify(Object.fromEntries(slim))}`;
    },
  };
}
