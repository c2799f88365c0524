import { answerInThread } from '../platform/work-thread.js';
import { documentWork } from './work.js';

answerInThread(documentWork);
