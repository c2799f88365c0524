/** The sign-in link that was just made: shown this once. */
class SignInLink {
  shown = $state.raw<{ person: string; url: string } | null>(null);

  show(person: string, url: string): void {
    this.shown = { person, url };
  }
}

export const createSignInLink = new SignInLink();
