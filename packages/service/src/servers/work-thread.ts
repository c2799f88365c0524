import { answerInThread } from '../platform/work-thread.js';
import { serverWork } from './work.js';

answerInThread(serverWork);
