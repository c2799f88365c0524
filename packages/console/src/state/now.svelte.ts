const EVERY = 20_000;

/** The time, as far as what is shown of it changes. */
class Now {
  value = $state(Date.now());

  constructor() {
    setInterval(() => {
      if (document.visibilityState === 'visible') this.value = Date.now();
    }, EVERY);
    document.addEventListener('visibilitychange', () => {
      this.value = Date.now();
    });
  }
}

export const now = new Now();
