import type { Plugin } from 'vite';

const ADDRESSES = 'virtual:pindro-addresses';
const RESOURCES = 'virtual:pindro-resources';

/**
 * What the console takes from the contract without its schemas, which would be half of what a page has to load: the
 * addresses of the API, and the descriptors of resources.
 */
export function contract(): Plugin {
  return {
    name: 'pindro-contract',
    resolveId: (id) => (id === ADDRESSES || id === RESOURCES ? `\0${id}` : undefined),
    async load(id) {
      if (id !== `\0${ADDRESSES}` && id !== `\0${RESOURCES}`) return undefined;
      const { routes, RESOURCE } = await import('@pindro/contract');
      const { toJSONSchema } = await import('zod');
      const slim = Object.entries(routes).map(([name, route]) => [
        name,
        { method: route.method, path: route.path, ...('stream' in route && { stream: true }) },
      ]);
      const described = Object.entries(RESOURCE).map(([name, { ...descriptor }]) => {
        if (!('fields' in descriptor)) return [name, descriptor];
        const { fields, ...rest } = descriptor;
        return [name, { ...rest, schema: toJSONSchema(fields, { io: 'input' }) }];
      });
      return `export default ${JSON.stringify(Object.fromEntries(id === `\0${RESOURCES}` ? described : slim))}`;
    },
  };
}
