import type { EndpointDetail } from '@pindro/contract/light';
import type { api } from '../state/api.js';
import type { Action } from '../state/resource.svelte.js';

/** Changing how a tool reads on its endpoint. */
export type Wording = Action<[body: Parameters<typeof api.describeTool>[0]['body']], EndpointDetail>;
