import type { Role } from '@pindro/contract';

/** The person or key on whose authority an effect happens. */
export interface Authority {
  name: string;
  role: Role;
}
/** Where nobody is named: what needs somebody's authority is refused. */
export const NOBODY: Authority = { name: 'nobody', role: 'viewer' };
/** Whoever starts the process of the service: it does what an owner may. */
export const HOST: Authority = { name: 'the service', role: 'owner' };
