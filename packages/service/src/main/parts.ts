import { BASE_PARTS, type Capability, type PartName, type Parts } from '../platform/capability.js';

/** An object on which only some parts can be read, each when it is asked for. */
function onlyThese(names: readonly PartName[], whose: string, read: (name: PartName) => unknown): Parts {
  const shown = {};
  for (const name of new Set(names)) Object.defineProperty(shown, name, { enumerable: true, get: () => read(name) });
  return new Proxy(shown, {
    get(target, name, receiver) {
      if (typeof name === 'string' && !(name in target))
        throw new Error(`The capability "${whose}" reads the part "${name}" without declaring it`);
      return Reflect.get(target, name, receiver);
    },
  }) as Parts;
}

/** The parts of a running service. Each capability sees those that it declared. */
export class PartsRegistry {
  readonly #made = new Map<PartName, unknown>();

  constructor(base: Pick<Parts, (typeof BASE_PARTS)[number]>) {
    for (const name of BASE_PARTS) this.#made.set(name, base[name]);
  }

  /**
   * Opens a capability and keeps what it made.
   * @throws Error if it needs a part that nobody before it made, or makes another than it declared
   */
  open(capability: Capability): void {
    const { name, needs = [], later = [], gives = [] } = capability;
    for (const need of needs)
      if (!this.#made.has(need)) throw new Error(`The capability "${name}" needs "${need}", which is not open yet`);
    const made = capability.open?.(
      onlyThese([...BASE_PARTS, ...needs], name, (part) => this.#made.get(part)),
      onlyThese(later, name, (part) => this.get(part)),
    );
    const undeclared = Object.keys(made ?? {}).filter((part) => !gives.includes(part as PartName));
    if (undeclared.length > 0) throw new Error(`The capability "${name}" makes ${undeclared.join(', ')} undeclared`);
    for (const part of gives) {
      if (made?.[part] === undefined) throw new Error(`The capability "${name}" declares "${part}" but made none`);
      this.#made.set(part, made[part]);
    }
  }

  /** What a capability may read once everything is open. */
  for({ name, needs = [], later = [], gives = [] }: Capability): Parts {
    return onlyThese([...BASE_PARTS, ...needs, ...later, ...gives], name, (part) => this.get(part));
  }

  find<Name extends PartName>(name: Name): Parts[Name] | undefined {
    return this.#made.get(name) as Parts[Name] | undefined;
  }

  /** @throws Error if nobody has made it yet */
  get<Name extends PartName>(name: Name): Parts[Name] {
    if (!this.#made.has(name)) throw new Error(`The part "${name}" is read before it is open`);
    return this.#made.get(name) as Parts[Name];
  }
}
