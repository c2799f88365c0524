import { defineCapability } from '../platform/capability.js';
import { trialRoutes } from './routes.js';
import { Stepper } from './stepper.js';
import { TrialStore } from './store.js';

declare module '../platform/capability.js' {
  interface Parts {
    trials: TrialStore;
    stepper: Stepper;
  }
}

export const trialsCapability = defineCapability({
  name: 'trials',
  needs: ['config', 'flows', 'objects', 'vault'],
  later: ['runPorts', 'runner', 'runs'],
  gives: ['trials', 'stepper'],
  open: ({ config, vault, bus }) => ({ trials: new TrialStore(config, vault, bus), stepper: new Stepper() }),
  routes: (api, { trials, stepper, flows, runs, runner, runPorts, objects }) =>
    trialRoutes(api, { trials, stepper, flows, runs, runner, runPorts, objects }),
});
