import * as conventions from '@opentelemetry/semantic-conventions/incubating';
import { attribute } from '@pindro/core';
import { expect } from 'chai';

describe('what spans say of themselves', () => {
  const known = new Set<unknown>(Object.values(conventions));
  const names = Object.values(attribute);

  it('goes by the names of the conventions where they have one, and by our own elsewhere', () => {
    const theirs = names.filter((name) => !name.startsWith('pindro.'));
    expect(theirs).to.include.members(['gen_ai.operation.name', 'gen_ai.tool.name', 'mcp.method.name', 'enduser.id']);
    expect(theirs.filter((name) => !known.has(name))).to.deep.equal([]);
  });

  it('has each name once', () => {
    expect([...new Set(names)]).to.deep.equal(names);
  });
});
