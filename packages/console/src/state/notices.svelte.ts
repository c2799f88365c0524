import type { ProblemDetails } from '@pindro/contract/light';

export interface Notice {
  id: number;
  text: string;
  problem?: ProblemDetails | undefined;
  /** What can be done about it, such as putting back what was removed. */
  action?: { label: string; run(): Promise<void> } | undefined;
}

/** Display time of a notification in milliseconds; one with an action stays longer. */
const STAYS = { plain: 5_000, offering: 15_000 };

/** What just happened, told at the edge of the page. */
class Notices {
  list = $state.raw<Notice[]>([]);
  #next = 1;
  readonly #timers = new Map<number, ReturnType<typeof setTimeout>>();

  tell(text: string, more: Pick<Notice, 'action' | 'problem'> = {}): void {
    const notice = { id: this.#next++, text, ...more };
    this.list = [...this.list.slice(-2), notice];
    this.leave(notice);
  }

  close(id: number): void {
    this.list = this.list.filter((one) => one.id !== id);
    this.#timers.delete(id);
  }

  /** Somebody is at it: it stays as long as they are. */
  hold({ id }: Notice): void {
    clearTimeout(this.#timers.get(id));
  }

  /** Closes the notification after its display time. */
  leave({ id, action, problem }: Notice): void {
    clearTimeout(this.#timers.get(id));
    const time = action || problem ? STAYS.offering : STAYS.plain;
    this.#timers.set(
      id,
      setTimeout(() => this.close(id), time),
    );
  }
}

export const notices = new Notices();
