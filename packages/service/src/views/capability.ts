import { RESOURCE } from '@pindro/contract';
import { plainCapability } from '../platform/plain.js';

/** Views of metrics that are kept under a name. */
export const viewsCapability = plainCapability(RESOURCE.view, 'metric_views');
