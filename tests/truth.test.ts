/**
 * Bench and reach must say the same of any site: of flows drawn at random, down to the statement that decides, and of
 * promises. `npm run truth` asks tens of thousands of sites.
 */
import { expect } from 'chai';
import fc from 'fast-check';
import { EVERYTHING, anySite, compareAtBox, comparePromises, siteFrom } from '#core/testkit';

describe('bench and reach', () => {
  it('agree on flows drawn at random', () => {
    fc.assert(
      fc.property(anySite(EVERYTHING), fc.integer({ min: 1, max: 1e6 }), (text, seed) => {
        expect(compareAtBox(siteFrom(text), seed, 40)).to.deep.equal([]);
      }),
      { numRuns: 150, seed: 20261123 },
    );
  }).timeout(240_000);

  it('agree on promises of every form', () => {
    fc.assert(
      fc.property(anySite({ ...EVERYTHING, promises: 6 }), (text) => {
        expect(comparePromises(siteFrom(text))).to.deep.equal([]);
      }),
      { numRuns: 250, seed: 20261124 },
    );
  }).timeout(240_000);
});
