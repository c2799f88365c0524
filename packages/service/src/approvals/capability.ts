import { defineCapability } from '../platform/capability.js';
import { approvalRoutes } from './routes.js';
import { ApprovalStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    approvals: ApprovalStore;
  }
}

export const approvalsCapability = defineCapability({
  name: 'approvals',
  needs: ['clocks', 'record'],
  gives: ['approvals'],
  open: ({ record, bus, clocks }) => ({ approvals: new ApprovalStore(record, bus, clocks) }),
  routes: (api, { approvals }) => approvalRoutes(api, approvals),
});
