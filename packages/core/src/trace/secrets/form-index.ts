/** Length of the index keys; no form is shorter. */
const KEY = 4;
const SLOTS = 1 << 16;

/**
 * Finds any of many texts in another one, in one pass that costs about the same for one and for a thousand: a glance at
 * two characters says nearly everywhere that nothing begins there.
 */
export class FormIndex {
  readonly #pairs = new Uint8Array(SLOTS);
  /** Forms by their first characters, the longest first. */
  readonly #byKey = new Map<string, string[]>();
  readonly #byFirst = new Map<string, string[]>();
  readonly longest: number;

  /** @param forms each at least {@link KEY} characters long */
  constructor(forms: readonly string[]) {
    const sorted = [...new Set(forms)].sort((a, b) => b.length - a.length);
    for (const form of sorted) {
      this.#pairs[slot(form.charCodeAt(0), form.charCodeAt(1))] = 1;
      push(this.#byKey, form.slice(0, KEY), form);
      push(this.#byFirst, form[0]!, form);
    }
    this.longest = sorted[0]?.length ?? 0;
  }

  /** Where they are found, in order; finds may overlap. */
  find(text: string): [from: number, to: number][] {
    const found: [number, number][] = [];
    let first = text.charCodeAt(0);
    for (let at = 0, last = text.length - KEY; at <= last; at++) {
      const second = text.charCodeAt(at + 1);
      if (this.#pairs[slot(first, second)] === 1) {
        const form = this.#byKey.get(text.slice(at, at + KEY))?.find((one) => text.startsWith(one, at));
        if (form) found.push([at, at + form.length]);
      }
      first = second;
    }
    return found;
  }

  /** How many characters at the end of a text may be the beginning of one of them. */
  undecided(text: string): number {
    for (let size = Math.min(this.longest - 1, text.length); size > 0; size--) {
      const end = text.slice(-size);
      if (this.#byFirst.get(end[0]!)?.some((form) => form.length > size && form.startsWith(end))) return size;
    }
    return 0;
  }
}

const slot = (first: number, second: number) => (first * 251 + second) & (SLOTS - 1);

function push(map: Map<string, string[]>, key: string, form: string): void {
  const list = map.get(key);
  if (list) list.push(form);
  else map.set(key, [form]);
}
