import { expect } from 'chai';
import fc from 'fast-check';
import { patchOf, patched } from './patch';

describe('patches', () => {
  const value = fc.letrec((tie) => ({
    any: fc.oneof(
      { maxDepth: 4 },
      fc.constantFrom(0, 1, -0, Number.NaN, 'a', null, undefined),
      tie('list'),
      tie('object'),
    ),
    list: fc.array(tie('any'), { maxLength: 4 }),
    object: fc.dictionary(fc.constantFrom('a', 'b', 'c', '__proto__'), tie('any'), {
      maxKeys: 3,
      noNullPrototype: true,
    }),
  })).any;

  it('make one value of another, on the other side of a copy too', () => {
    fc.assert(
      fc.property(value, value, (before, after) => {
        const patch = structuredClone(patchOf(before, after));
        expect(patched(before, patch)).to.deep.equal(after);
      }),
      { numRuns: 2000 },
    );
  });

  it('leave alone what did not change', () => {
    const before = {
      desks: [
        { name: 'a', stages: [1, 2] },
        { name: 'b', stages: [3] },
      ],
      routes: [{ to: 'x' }],
    };
    const after = structuredClone(before);
    after.desks[1]!.stages.push(4);
    const now = patched(before, patchOf(before, after)) as typeof before;
    expect(now).to.deep.equal(after);
    expect([
      now.desks[0] === before.desks[0],
      now.desks[1] === before.desks[1],
      now.routes === before.routes,
    ]).to.deep.equal([true, false, true]);
    expect(JSON.stringify(patchOf(before, after))).to.have.length.below(120);
    expect(patchOf(before, structuredClone(before))).to.equal(undefined);
    expect(patched([1, 2, 3], patchOf([1, 2, 3], [1]))).to.deep.equal([1]);
  });
});
