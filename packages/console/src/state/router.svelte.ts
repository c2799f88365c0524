/** Where in the console one is; addresses are those of the page itself. */
class Router {
  path = $state(location.pathname);
  query = $state(new URLSearchParams(location.search));
  hash = $state(location.hash);
  /** Whether the page fills the window and scrolls inside, as the editor does. */
  filled = $state(false);

  constructor() {
    addEventListener('popstate', () => this.#read());
    // Plain links are followed within the page; with a modifier key the browser does as usual.
    document.addEventListener('click', (event) => {
      const link = (event.target as Element).closest?.('a');
      if (!link || event.defaultPrevented || event.button !== 0 || event.metaKey || event.ctrlKey || event.shiftKey)
        return;
      if (
        link.origin !== location.origin ||
        link.target ||
        link.hasAttribute('download') ||
        link.pathname.startsWith('/api/')
      )
        return;
      event.preventDefault();
      this.go(link.pathname + link.search + link.hash);
    });
  }

  go(to: string): void {
    history.pushState(null, '', to);
    this.#read();
    if (!this.hash) scrollTo(0, 0);
  }

  /** Has the page fill the window, for as long as the effect lives in which it is called. */
  fill(): () => void {
    this.filled = true;
    return () => {
      this.filled = false;
    };
  }

  /** Changes the query in place, for filters. */
  filter(values: Record<string, string>): void {
    const kept = new URLSearchParams(Object.entries(values).filter(([, value]) => value !== ''));
    history.replaceState(null, '', kept.size > 0 ? `${this.path}?${kept}` : this.path);
    this.#read();
  }

  #read(): void {
    this.path = location.pathname;
    this.query = new URLSearchParams(location.search);
    this.hash = location.hash;
  }
}

export const router = new Router();
