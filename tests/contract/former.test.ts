import { readFileSync } from 'node:fs';
import { FORMER_PATHS, type RouteName, routes } from '@pindro/contract';
import { expect } from 'chai';

const FIXTURE = new URL('../../fixtures/version-0.1/routes.txt', import.meta.url);
const shape = (method: string, path: string) => `${method} ${path.replace(/:\w+/g, ':x')}`;

describe('the API of version 0.1', () => {
  const former = Object.entries(FORMER_PATHS).map(([name, path]) => shape(routes[name as RouteName].method, path));
  const before = readFileSync(FIXTURE, 'utf8')
    .trim()
    .split('\n')
    .map((line) => shape(line.split(' ')[0]!, line.split(' ')[1]!));

  it('is answered at every path, present or former', () => {
    const present = Object.values(routes).map(({ method, path }) => shape(method, path));
    expect(before.filter((one) => !present.includes(one) && !former.includes(one))).to.deep.equal([]);
  });

  it('had every path that is called a former one', () => {
    expect(former.filter((one) => !before.includes(one))).to.deep.equal([]);
  });
});
