import type { KeySummary } from '@pindro/contract/light';
import type { JsonObject } from '@pindro/core/browser';
import { api } from '../state/api.js';
import { Action } from '../state/resource.svelte.js';

interface Made {
  key: string;
  summary: KeySummary;
}

/** Making, changing and ending keys; a key that was just made is shown once. */
export class Keyring {
  made = $state.raw<Made | null>(null);

  readonly issue = new Action(async (value: JsonObject, endpoints: string[] | undefined) => {
    const { caller, ...rest } = value;
    const name = String(caller ?? '');
    const body = { ...rest, name, caller: name, ...(endpoints && { endpoints }) };
    this.made = await api.issueKey({ body: body });
    return this.made;
  });
  readonly rotate = new Action(async (id: string) => {
    this.made = await api.rotateKey({ id, body: {} });
  });
  readonly copy = new Action(async ({ id, name }: KeySummary) => {
    this.made = await api.copyKey({ id, body: { name: `${name}, copy` } });
  });
  readonly revoke = new Action((id: string) => api.revokeKey({ id }));

  get problem() {
    return this.rotate.problem ?? this.copy.problem ?? this.revoke.problem;
  }

  change = (id: string) => async (value: JsonObject) => {
    // What the form leaves out is to be as in a new key.
    const cleared = { perMinute: null, tools: null, readOnly: false, propose: false, attributes: {} };
    await api.updateKey({ id, body: { ...cleared, ...value } });
  };
}
