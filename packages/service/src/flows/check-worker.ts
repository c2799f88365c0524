import { checkFlow, useHardStop } from '@pindro/core';
import { stopByClock } from '../platform/hard-stop.js';
import { answerInThread } from '../platform/work-thread.js';
import type { CheckRequest } from './checker.js';

/* The thread of the checker. */
useHardStop(stopByClock);
answerInThread(({ text, surroundings }: CheckRequest) => checkFlow(text, surroundings));
