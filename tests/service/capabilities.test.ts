import { BASE_PARTS, CAPABILITIES, type Capability, type PartName, PartsRegistry } from '@pindro/service/parts';
import { expect } from 'chai';

const base = () => new PartsRegistry({ settings: {}, bus: {}, log: {}, masker: {}, address: () => '' } as never);
const capability = (name: string, rest: object): Capability => ({ name, ...rest });

describe('capabilities', () => {
  it('need parts of earlier ones, and read parts of later ones only afterwards', () => {
    const made = new Set<PartName>(BASE_PARTS);
    const late: [string, PartName][] = [];
    for (const { name, needs = [], later = [], gives = [] } of CAPABILITIES) {
      expect(
        needs.filter((part) => !made.has(part)),
        name,
      ).to.deep.equal([]);
      for (const part of later) late.push([name, part]);
      for (const part of gives) {
        expect(made.has(part), `${part} is made once`).to.equal(false);
        made.add(part);
      }
    }
    expect(late.filter(([, part]) => !made.has(part))).to.deep.equal([]);
  });

  it('receive the parts that they declare and no others', () => {
    const registry = base();
    registry.open(capability('one', { gives: ['keys'], open: () => ({ keys: 'the keys' }) }));
    let seen: unknown;
    const open = (parts: { keys: unknown; runs: unknown }) => {
      seen = parts.keys;
      return { flows: parts.runs };
    };
    const two = capability('two', { needs: ['keys'], gives: ['flows'], open });
    expect(() => registry.open(two)).to.throw('The capability "two" reads the part "runs" without declaring it');
    expect(seen).to.equal('the keys');
    expect(Object.keys(registry.for(capability('three', { needs: ['keys'] })))).to.deep.equal([...BASE_PARTS, 'keys']);
  });

  it('are refused where a part is missing, undeclared, or read too early', () => {
    const registry = base();
    expect(() => registry.open(capability('one', { needs: ['keys'] }))).to.throw('needs "keys", which is not open yet');
    expect(() => registry.open(capability('one', { gives: ['keys'], open: () => ({}) }))).to.throw('made none');
    expect(() => registry.open(capability('one', { open: () => ({ keys: 1 }) }))).to.throw('makes keys undeclared');
    const early = capability('one', { later: ['runs'], open: (_: unknown, later: { runs: unknown }) => later.runs });
    expect(() => registry.open(early)).to.throw('The part "runs" is read before it is open');
    expect(registry.find('runs' as PartName)).to.equal(undefined);
  });
});
