/* Parts of the service that are tested on their own. Nothing but tests imports this entry. */
export { ConversationStore } from './conversations/store.js';
export { Vault } from './credentials/vault.js';
export { openDatabase } from './platform/database/open.js';
export { RunStore } from './runs/store.js';
export { RunWriter } from './runs/writer.js';
