import type { FitViewOptions } from '@xyflow/svelte';

/** Everything in sight, with room for the tools above it. */
export const ALL: FitViewOptions = { maxZoom: 1, padding: { top: '64px', bottom: '24px', x: '24px' } };
