import type { ProblemDetails } from '@pindro/contract/light';
import { api, problemOf } from './api.js';
import { notices } from './notices.svelte.js';
import { type ThingType, thingType } from './things.js';

interface Held {
  sort: ThingType;
  name: string;
  /** What it would break. */
  uses: string[];
  problem: ProblemDetails;
  done: () => void;
}

/** Taking things out: at once where nothing uses them, with what it would break where something does; with a way back. */
class Removing {
  /** A removal that waits for confirmation of its consequences. */
  held = $state.raw<Held | null>(null);

  /** @param shown what people call the one, where its name is an id */
  async remove(sort: ThingType, name: string, done: () => void = () => {}, shown = name, force = false): Promise<void> {
    const { remove, uses, word } = thingType(sort);
    if (!remove) return;
    try {
      const { removal } = await remove(name, force);
      this.held = null;
      notices.tell(`Removed ${word} ${shown}.`, removal.id ? { action: restoreRemoved(removal.id) } : {});
      done();
    } catch (error) {
      const problem = problemOf(error);
      if (problem.code !== 'in_use' || force) return notices.tell(problem.detail, { problem });
      const items = uses ? (await uses(name).catch(() => ({ items: [] }))).items : [];
      this.held = { sort, name, uses: items, problem, done };
    }
  }

  goOn(): Promise<void> {
    const { sort, name, done } = this.held!;
    return this.remove(sort, name, done, name, true);
  }
  leave(): void {
    this.held = null;
  }
}

/** The way back after a removal. */
export const restoreRemoved = (id: string) => ({
  label: 'Undo',
  run: async () => {
    try {
      const { what, name } = await api.restoreRemoved({ id });
      notices.tell(`Restored ${what} ${name}.`);
    } catch (error) {
      const problem = problemOf(error);
      notices.tell(problem.detail, { problem });
    }
  },
});

export const removing = new Removing();
