import { checkFlow, stepKinds } from '@pindro/core';
import type { FlowDocument, Json, JsonObject, StepDocument } from '@pindro/core/browser';
import { expect } from 'chai';
import { consoleModules } from '../../support/console-modules.js';

interface Point {
  x: number;
  y: number;
}
interface Link {
  from: string;
  to: string;
  branch: string | null;
}
type Card = { name: string; kind: string; title: string; sentence: Json[]; tools: never[]; branches: string[] } & {
  output: JsonObject;
  under: string;
};
const card = (name: string, more: Partial<Card> = {}): Card => ({
  ...{ name, kind: 'text', title: name, sentence: [], tools: [], branches: [], output: {}, under: '' },
  ...more,
});
const link = (from: string, to: string, branch: string | null = null): Link => ({ from, to, branch });

describe('where the cards of a flow stand', function () {
  this.timeout(120_000);
  const modules = consoleModules();
  interface Layout {
    layOut(
      cards: Card[],
      links: Link[],
      heights: Map<string, number>,
      stretchOf?: (name: string) => string,
    ): Map<string, Point>;
    CARD_WIDTH: number;
  }
  let layout: Layout;
  before(async () => {
    layout = await modules.load('canvas/layout.ts');
  });

  const overlaps = (places: Map<string, Point>, height: number) => {
    const all = [...places.values()];
    return all.some((a, index) =>
      all.slice(index + 1).some((b) => Math.abs(a.x - b.x) < layout.CARD_WIDTH && Math.abs(a.y - b.y) < height),
    );
  };
  const heightsOf = (cards: Card[], height: number) => new Map(cards.map(({ name }) => [name, height]));

  for (const [count, what] of [
    [40, 'carefully'],
    [900, 'plainly, where there are very many'],
  ] as const)
    it(`is below what they come after, none on another, and the same again: ${what}`, () => {
      const cards = Array.from({ length: count }, (_, n) => card(`s${n}`));
      const links = cards.slice(1).map(({ name }, n) => link(`s${Math.floor(n / 2)}`, name));
      const heights = heightsOf(cards, 90);
      const places = layout.layOut(cards, links, heights);
      expect([...places.keys()]).to.have.members(cards.map(({ name }) => name));
      for (const { from, to } of links) expect(places.get(to)!.y).to.be.above(places.get(from)!.y + 90);
      expect(overlaps(places, 90)).to.equal(false);
      expect(layout.layOut(cards, links, heights)).to.deep.equal(places);
    });

  for (const count of [3, 500])
    it(`is somewhere although ${count} steps wait for one another in a circle, or for what is not there`, () => {
      const cards = Array.from({ length: count }, (_, n) => card(`s${n}`));
      const links = [...cards.map((_, n) => link(`s${n}`, `s${(n + 1) % count}`)), link('gone', 's0')];
      const known = links.filter(({ from }) => from !== 'gone' || count > 400);
      for (const { x, y } of layout.layOut(cards, known, new Map()).values())
        expect(Number.isFinite(x) && Number.isFinite(y)).to.equal(true);
    });

  it('is nothing for no cards', () => expect(layout.layOut([], [], new Map()).size).to.equal(0));
});

describe('what the canvas shows of a flow', function () {
  this.timeout(120_000);
  const modules = consoleModules();
  interface Trail {
    cards: Card[];
    links: Link[];
    places: Map<string, Point>;
    frames: { heading: string; names: string[]; x: number; y: number; width: number; height: number }[];
    folded: { heading: string; names: string[] }[];
  }
  interface TrailModule {
    trailOf(
      cards: Card[],
      steps: Record<string, object>,
      links: Link[],
      heights: Map<string, number>,
      folds: Set<string>,
    ): Trail;
  }
  interface Parts {
    cardsFor(drawn: object[], steps: Record<string, object>): (Card & { off: boolean; note: string })[];
    linksFor(steps: Record<string, object>): Link[];
  }
  interface Elements {
    edgesOf(links: Link[], states: Map<string, object>, add: (link: Link) => void): { id: string; ariaLabel: string }[];
    nodesOf(trail: Trail, all: Card[], look: object): { id: string; data: JsonObject; ariaLabel: string }[];
  }
  const STEPS = {
    look: { kind: 'table', place: [0, 0] },
    ask: { kind: 'approve', after: ['look'], under: 'Approval' },
    yes: { kind: 'text', after: ['ask.approved'], under: 'Approval', place: [500, 300] },
    no: { kind: 'stop', after: ['ask.refused'] },
    tell: { kind: 'mail', after: ['yes', 'gone'] },
  };
  let trail: (folds?: string[]) => Trail;
  let parts: Parts;
  let elements: Elements;
  before(async () => {
    parts = await modules.load('editor/canvas/card-parts.ts');
    elements = await modules.load('editor/canvas/elements.ts');
    const { trailOf } = await modules.load<TrailModule>('editor/canvas/groups.ts');
    trail = (folds = []) => trailOf(parts.cardsFor([], STEPS), STEPS, parts.linksFor(STEPS), new Map(), new Set(folds));
  });

  it('is each step with what is known of it, also before the service drew it', () => {
    const drawn = [{ ...card('look'), kind: 'table', sentence: ['find rows'] }, card('tell', { sentence: ['old'] })];
    const cards = parts.cardsFor(drawn, { ...STEPS, look: { kind: 'table', title: 'Look up', off: true } });
    expect(cards.map(({ name }) => name)).to.deep.equal(Object.keys(STEPS));
    expect(cards[0]).to.deep.include({ title: 'Look up', off: true, sentence: ['find rows'] });
    expect(cards.at(-1), 'of another kind meanwhile').to.deep.include({ kind: 'mail', sentence: [] });
  });

  it('is tied by what steps come after, not by what is gone', () => {
    expect(parts.linksFor(STEPS)).to.deep.equal([
      link('look', 'ask'),
      link('ask', 'yes', 'approved'),
      link('ask', 'no', 'refused'),
      link('yes', 'tell'),
    ]);
  });

  it('stands where the draft has it, with a frame around each stretch', () => {
    const { places, frames, folded } = trail();
    expect(places.get('look')).to.deep.equal({ x: 0, y: 0 });
    expect(places.get('yes')).to.deep.equal({ x: 500, y: 300 });
    expect(folded).to.deep.equal([]);
    const [frame] = frames;
    expect(frame).to.deep.include({ heading: 'Approval', names: ['ask', 'yes'] });
    for (const name of frame!.names) {
      const { x, y } = places.get(name)!;
      expect(x).to.be.within(frame!.x, frame!.x + frame!.width);
      expect(y).to.be.within(frame!.y, frame!.y + frame!.height);
    }
  });

  it('folds a stretch into one card that what leads in and out is tied to', () => {
    const { cards, links, frames, folded, places } = trail(['Approval']);
    expect(cards.map(({ name }) => name)).to.deep.equal(['look', 'no', 'tell']);
    expect(frames).to.deep.equal([]);
    expect(folded).to.deep.equal([{ heading: 'Approval', names: ['ask', 'yes'] }]);
    expect(links).to.deep.equal([
      link('look', 'stretch:Approval'),
      link('stretch:Approval', 'no'),
      link('stretch:Approval', 'tell'),
    ]);
    expect(places.has('stretch:Approval')).to.equal(true);
  });

  it('tells of each card what is wrong with it, what is to fill, and which branches nobody follows', () => {
    const mistakes: Record<string, { calm: boolean }[]> = { yes: [{ calm: true }, { calm: false }], ask: [] };
    const look = {
      ...{ states: new Map([['look', { state: 'done', took: '2 ms' }]]), held: ['look'], found: 'tell' },
      ...{ selected: new Set(['no']), tied: new Set(['ask.approved']) },
      mistakes: (name: string) => mistakes[name] ?? [],
      warnings: (name: string) => (name === 'tell' ? 2 : 0),
      isCalm: ({ calm }: { calm: boolean }) => calm,
      open: () => undefined,
      fold: () => undefined,
      rename: () => undefined,
    };
    const all = parts
      .cardsFor([], STEPS)
      .map((one) => (one.name === 'ask' ? { ...one, branches: ['approved', 'refused'] } : one));
    const nodes = elements.nodesOf(trail(), all, look);
    const of = (id: string) => nodes.find((node) => node.id === id)!;
    expect(of('yes').data).to.include({ mistakes: 1, toFill: 1 });
    expect(of('look').data).to.include({ state: 'done', held: true });
    expect(of('tell').data).to.include({ warnings: 2, found: true });
    expect(of('ask').data.loose).to.deep.equal(['refused']);
    expect(of('no')).to.include({ selected: true, ariaLabel: 'Step no, stop' });
    expect(of('frame:Approval').data).to.deep.include({ mistakes: 1, titles: ['ask', 'yes'], folded: false });
    // What a folded stretch hides is still told.
    const folded = elements.nodesOf(trail(['Approval']), all, look);
    expect(folded.find(({ id }) => id === 'stretch:Approval')!.data).to.include({ mistakes: 1, folded: true });
    const edges = elements.edgesOf(trail().links, new Map(), () => undefined);
    expect(edges.map(({ ariaLabel }) => ariaLabel)).to.include('Link from ask on approved to yes');
    expect(new Set(edges.map(({ id }) => id)).size).to.equal(edges.length);
  });
});

describe('what a new step begins with', function () {
  this.timeout(120_000);
  const modules = consoleModules();
  type Facts = Record<'models' | 'tables' | 'servers' | 'flows', string[]> & { lastTable: string | null };
  interface Beginnings {
    beginningOf(
      kind: string,
      document: FlowDocument,
      facts: Facts,
      after?: string,
    ): { config: JsonObject; document: FlowDocument };
    NO_FACTS: Facts;
  }
  let begin: Beginnings;
  const flow = (steps: Record<string, StepDocument> = {}) =>
    ({ format: 'pindro/flow@1', name: 'desk', steps }) as unknown as FlowDocument;
  before(async () => {
    begin = await modules.load('editor/try/input-templates.ts');
  });

  it('is the only thing there is, never one of several', () => {
    const config = (kind: string, more: Partial<Facts>) =>
      begin.beginningOf(kind, flow(), { ...begin.NO_FACTS, ...more }).config;
    expect(config('agent', { models: ['ridge'] })).to.deep.include({ model: 'ridge', message: '${ input.message }' });
    expect(config('agent', { models: ['ridge', 'valley'] })).not.to.have.property('model');
    expect(config('tool', { servers: ['lift'] })).to.deep.equal({ server: 'lift' });
    expect(config('table', { tables: ['huts', 'bookings'] })).not.to.have.property('table');
    expect(config('table', { tables: ['huts', 'bookings'], lastTable: 'bookings' })).to.include({ table: 'bookings' });
    expect(config('table', { tables: ['huts'], lastTable: 'gone' })).to.include({ table: 'huts' });
    expect(config('flow', { flows: ['desk', 'other'] }), 'never itself').to.deep.equal({ flow: 'other' });
    expect(config('from-the-future', {})).to.deep.equal({});
  });

  it('brings the input it asks for, unless there is one', () => {
    const { document } = begin.beginningOf('agent', flow(), begin.NO_FACTS);
    expect(document.input).to.have.nested.property('properties.message.type', 'string');
    const own = { ...flow(), input: { type: 'object', properties: { message: { type: 'string', maxLength: 9 } } } };
    expect(begin.beginningOf('agent', own as FlowDocument, begin.NO_FACTS).document).to.equal(own);
  });

  it('goes through the rows of a search it comes after', () => {
    const found = flow({ look: { kind: 'table', with: { table: 'huts', do: 'find' } } });
    expect(begin.beginningOf('each', found, begin.NO_FACTS, 'look').config.list).to.equal('${ steps.look.rows }');
    const { config, document } = begin.beginningOf('each', flow(), begin.NO_FACTS);
    expect(config.list).to.equal('${ input.items }');
    expect(document.input).to.have.nested.property('properties.items.type', 'array');
  });

  it('leaves nothing wrong but what is still to be filled in, whatever the kind', () => {
    const facts = { models: ['ridge'], tables: ['huts'], servers: ['lift'], flows: ['other'], lastTable: null };
    for (const { name } of stepKinds()) {
      const { config, document } = begin.beginningOf(name, flow(), facts);
      const { mistakes } = checkFlow({ ...document, steps: { step: { kind: name, with: config } } } as unknown as Json);
      const wrong = mistakes.filter((one) => !one.missing);
      expect(wrong, name).to.deep.equal([]);
    }
  });
});

describe('what was typed and is not saved yet', function () {
  this.timeout(120_000);
  const modules = consoleModules();
  interface Unsaved {
    keep(document: object): void;
    forget(): void;
    found(draft: object): object | null;
  }
  let make: (flow: string) => Unsaved;
  const shelf = new Map<string, string>();
  const shelves = {
    getItem: (key: string) => shelf.get(key) ?? null,
    setItem(key: string, text: string) {
      if (text.length > 1000) throw new Error('full');
      shelf.set(key, text);
    },
    removeItem: (key: string) => shelf.delete(key),
  };
  before(async () => {
    Object.defineProperty(globalThis, 'localStorage', { value: shelves, configurable: true });
    const { Unsaved } = await modules.load<{ Unsaved: new (flow: string) => Unsaved }>('editor/session/unsaved.ts');
    make = (flow) => new Unsaved(flow);
  });
  after(() => Reflect.deleteProperty(globalThis, 'localStorage'));
  afterEach(() => shelf.clear());
  const draft = { name: 'desk', steps: {} };
  const typed = { name: 'desk', steps: { say: { kind: 'text' } } };

  it('is found again by the next page, and forgotten once it is saved', () => {
    make('desk').keep(typed);
    expect(make('desk').found(draft)).to.deep.equal(typed);
    expect(make('other').found({ name: 'other' })).to.equal(null);
    make('desk').forget();
    expect(make('desk').found(draft)).to.equal(null);
  });

  it('is nothing where the draft says the same, is of another flow, or cannot be read', () => {
    make('desk').keep(draft);
    expect(make('desk').found(draft)).to.equal(null);
    make('desk').keep({ ...typed, name: 'another' });
    expect(make('desk').found(draft)).to.equal(null);
    shelf.set('pindro-unsaved-desk', '{"name": "des');
    expect(make('desk').found(draft)).to.equal(null);
  });

  it('may be too large for the browser without anybody being stopped', () => {
    expect(() => make('desk').keep({ name: 'desk', title: 'x'.repeat(5000) })).not.to.throw();
  });
});
