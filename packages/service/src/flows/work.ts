import { checkFlow, compareFlows } from '@pindro/core';
import { drawDraft } from './drawing.js';

/** What is done with flow documents that may take a while. */
export const flowWork = { check: checkFlow, draw: drawDraft, compare: compareFlows };
