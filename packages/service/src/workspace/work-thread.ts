import { useHardStop } from '@pindro/core';
import { stopByClock } from '../platform/hard-stop.js';
import { answerInThread } from '../platform/work-thread.js';
import { fileWork } from './work.js';

useHardStop(stopByClock);
answerInThread(fileWork);
