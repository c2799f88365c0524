import { useHardStop } from '@pindro/core';
import { stopByClock } from '../platform/hard-stop.js';
import { answerInThread } from '../platform/work-thread.js';
import { flowWork } from './work.js';

/* The thread of the checker. */
useHardStop(stopByClock);
answerInThread(flowWork);
