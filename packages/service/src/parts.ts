/* Parts of the service that are tested on their own. Nothing but tests imports this entry. */
export { ConversationStore } from './conversations/store.js';
export { Vault } from './credentials/vault.js';
export { Allowance } from './endpoints/allowance.js';
export { Diary } from './endpoints/mcp/diary.js';
export { RunWatch } from './endpoints/mcp/progress.js';
export { EventStream } from './endpoints/mcp/streams.js';
export { scopedTools } from './endpoints/scope.js';
export { usageOf } from './endpoints/usage.js';
export { Scheduler } from './entries/schedule.js';
export { type EntryRecord, EntryStore, nextDue } from './entries/store.js';
export { FlowChecker } from './flows/checker.js';
export { MailSender } from './mail/sender.js';
export { openDatabase } from './platform/database/open.js';
export { SqliteJournal } from './record/sqlite-journal.js';
export { Places } from './runs/places.js';
export { RunStore } from './runs/store.js';
export { ScriptPool } from './scripts/pool.js';
export { EXAMPLE_FLOW } from './workshop/format-notes.js';
