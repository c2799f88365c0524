import { defineCapability } from '../platform/capability.js';
import { Memories } from './memories.js';
import { ConversationStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    memory: ConversationStore;
  }
}

export const conversationsCapability = defineCapability({
  name: 'conversations',
  needs: ['config', 'credentials', 'vault'],
  gives: ['memory'],
  open: ({ config, vault, bus }) => ({ memory: new ConversationStore(config, vault, bus) }),
  routes: (api, { memory, credentials }) => {
    const memories = new Memories(memory, credentials.masker);
    api.on('listMemories', async ({ query }) => ({
      items: await memories.list((query.search ?? '').toLowerCase().split(/\s+/).filter(Boolean)),
    }));
    api.on('getMemory', (call) => memories.show(call.param('id')));
    api.on('correctNote', async (call) => {
      await memories.correct(call.param('id'), call.body.about, call.body.text);
      return memories.show(call.param('id'));
    });
    api.on('deleteMemory', (call) => {
      memories.forget(call.param('id'));
      return { done: true };
    });
  },
});
