export { compareTools, same as sameTool, type ToolChange, type ToolPart } from './difference.js';
export type { Flag } from './flag.js';
export { FLAG_RULES } from './flags/registry.js';
export { flagsOf, type Held, MODEL_REVIEW, seeTools, usableTools } from './watch.js';
export { WATCHES, type Watch } from './watches.js';
