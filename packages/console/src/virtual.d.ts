declare module 'virtual:pindro-addresses' {
  import type { Address } from '@pindro/contract/light';

  const addresses: Record<string, Address>;
  export default addresses;
}
