import type { Plugin } from 'vite';

const ADDRESSES = 'virtual:pindro-addresses';
const DESCRIPTORS = 'virtual:pindro-resources';

/**
 * What the console takes from the contract without its schemas, which would be half of what a page has to load: the
 * addresses of the API, and the descriptors of resources.
 */
export function contract(): Plugin {
  return {
    name: 'pindro-contract',
    resolveId: (id) => (id === ADDRESSES || id === DESCRIPTORS ? `\0${id}` : undefined),
    async load(id) {
      if (id !== `\0${ADDRESSES}` && id !== `\0${DESCRIPTORS}`) return undefined;
      const { fieldsSchemaOf, isPlain, RESOURCES, routes } = await import('@pindro/contract');
      const slim = Object.entries(routes).map(([name, route]) => [
        name,
        { method: route.method, path: route.path, ...('stream' in route && { stream: true }) },
      ]);
      const described = RESOURCES.map((one) => {
        const { fields: _, ...descriptor } = one;
        return [one.name, { ...descriptor, ...(isPlain(one) && { schema: fieldsSchemaOf(one) }) }];
      });
      return `export default ${JSON.stringify(Object.fromEntries(id === `\0${DESCRIPTORS}` ? described : slim))}`;
    },
  };
}
