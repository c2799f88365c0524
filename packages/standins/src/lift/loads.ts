import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';

export const HUTS = ['kestrel', 'larch', 'stonewater'] as const;
export const MAX_KG = 350;

export interface Load {
  load: string;
  hut: string;
  day: string;
  weight_kg: number;
  goods: string;
  priority: string;
  station: string;
  /** The account that scheduled it, where that is not the association's own. */
  ordered_by?: string;
  state: 'waiting' | 'cancelled';
}

/** The lift company's book of loads, kept in a file if one is named. */
export class LoadBook {
  readonly #loads: Load[];

  constructor(private readonly file?: string) {
    this.#loads = file && existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as Load[]) : [];
  }

  list(filter: { hut?: string; day?: string; station?: string }): Load[] {
    return this.#loads.filter(
      (load) =>
        load.state === 'waiting' &&
        Object.entries(filter).every(([name, value]) => value === undefined || load[name as keyof Load] === value),
    );
  }

  /** @throws Error with a reason that a model can read */
  schedule(given: Pick<Load, 'hut' | 'day' | 'weight_kg'> & Partial<Load>): Load {
    if (given.weight_kg > MAX_KG)
      throw new Error(`The lift carries at most ${MAX_KG} kg; weight_kg was ${given.weight_kg}. Split the load.`);
    if (given.weight_kg <= 0) throw new Error(`weight_kg must be more than 0, not ${given.weight_kg}.`);
    const load: Load = {
      goods: 'provisions',
      priority: 'normal',
      ...given,
      load: `L-${String(this.#loads.length + 1).padStart(4, '0')}`,
      station: 'valley',
      state: 'waiting',
    };
    this.#loads.push(load);
    this.#keep();
    return load;
  }

  cancel(name: string): Load {
    const load = this.#loads.find((one) => one.load === name);
    if (!load) throw new Error(`There is no load ${name}.`);
    if (load.state === 'cancelled') throw new Error(`Load ${name} is cancelled already.`);
    load.state = 'cancelled';
    this.#keep();
    return load;
  }

  #keep(): void {
    if (!this.file) return;
    writeFileSync(`${this.file}.new`, JSON.stringify(this.#loads, null, 1));
    renameSync(`${this.file}.new`, this.file);
  }
}
