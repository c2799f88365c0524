import type { ProblemDetails } from '@pindro/contract/light';

export interface Notice {
  id: number;
  text: string;
  problem?: ProblemDetails | undefined;
  /** What can be done about it, such as putting back what was removed. */
  action?: { label: string; run(): Promise<void> } | undefined;
}

/** A notice goes by itself after so many milliseconds, unless somebody is at it. */
const STAYS = 15_000;

/** What just happened, told at the edge of the page. */
class Notices {
  list = $state.raw<Notice[]>([]);
  #next = 1;

  tell(text: string, more: Pick<Notice, 'action' | 'problem'> = {}): void {
    const notice = { id: this.#next++, text, ...more };
    this.list = [...this.list.slice(-2), notice];
    setTimeout(() => this.close(notice.id), STAYS);
  }

  close(id: number): void {
    this.list = this.list.filter((one) => one.id !== id);
  }
}

export const notices = new Notices();
