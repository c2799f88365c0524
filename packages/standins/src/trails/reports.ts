import { existsSync, readFileSync, writeFileSync } from 'node:fs';

export interface Report {
  trail: string;
  state: 'open' | 'careful' | 'closed';
  says: string;
  day: string;
}

/** The trails of the ridge, as the wardens reported them last. */
const FIRST: Report[] = [
  { trail: 'kestrel-gully', state: 'open', says: 'Dry, the upper rungs are loose.', day: '2027-02-11' },
  { trail: 'larch-traverse', state: 'careful', says: 'Old snow below the second saddle.', day: '2027-02-12' },
  { trail: 'stonewater-ford', state: 'closed', says: 'The bridge is out; go round by the larch.', day: '2027-02-12' },
];

/** Reports on trails, kept in a file if one is named. */
export class Reports {
  readonly #reports: Report[];

  /** @throws Error where the file is named and is not there */
  constructor(private readonly file?: string) {
    if (file !== undefined && !existsSync(file)) throw new Error(`there is no file ${file} with reports`);
    this.#reports = file ? (JSON.parse(readFileSync(file, 'utf8')) as Report[]) : FIRST.map((one) => ({ ...one }));
  }

  trails(): string[] {
    return [...new Set(this.#reports.map(({ trail }) => trail))];
  }

  /** @throws Error with a reason that a model can read */
  latest(trail: string): Report {
    const report = this.#reports.findLast((one) => one.trail === trail);
    if (!report) throw new Error(`There is no trail ${trail}. There is ${this.trails().join(', ')}.`);
    return report;
  }

  add(report: Report): Report {
    this.latest(report.trail);
    this.#reports.push(report);
    if (this.file) writeFileSync(this.file, JSON.stringify(this.#reports));
    return report;
  }
}
