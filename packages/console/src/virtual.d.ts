declare module 'virtual:pindro-addresses' {
  import type { Address } from '@pindro/contract/light';

  const addresses: Record<string, Address>;
  export default addresses;
}

declare module 'virtual:pindro-resources' {
  import type { ResourceDescriptor, ResourceName } from '@pindro/contract/light';
  import type { JsonSchema } from '@pindro/core/browser';

  /** Descriptors of resources; that of a plain one with its fields as a JSON Schema. */
  const resources: Record<ResourceName, Omit<ResourceDescriptor, 'fields'> & { schema?: JsonSchema }>;
  export default resources;
}
