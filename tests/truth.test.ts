/**
 * Bench and reach must say the same of any site: of flows drawn at random, down to the statement that decides, and of
 * promises. `npm run truth` asks tens of thousands of sites.
 */
import { expect } from 'chai';
import fc from 'fast-check';
import { Reach, ReachMemory, ReachTable } from '#core/reach';
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

describe('the memory of the reach', () => {
  const told = (table: ReachTable): string[] =>
    [...table.all()].map(({ from, to, cell }) =>
      [
        `${from.kind} ${from.name} > ${to.kind} ${to.name}: ${cell.verdict}`,
        cell.services.key,
        cell.everywhere.key,
        cell.leavesAs,
        table.statementsOf(cell).map((s) => `${s.subject}:${s.line}`),
        cell.flows.map((b) => `${b.sources.key} ${b.destinations.key} ${b.services.key}`),
      ].join(' | '),
    );

  it('gives the table of an edited text as if it were the first', () => {
    const memory = new ReachMemory();
    const edit = fc.tuple(fc.constantFrom('without', 'later', 'other'), fc.nat(60));
    fc.assert(
      fc.property(
        anySite(EVERYTHING),
        anySite(EVERYTHING),
        fc.array(edit, { maxLength: 4 }),
        (text, other, edits) => {
          const lines = text.split('\n');
          const spare = other.split('\n');
          for (const [what, n] of [['as is', 0] as const, ...edits]) {
            const at = n % lines.length;
            const [line = ''] = what === 'as is' ? [] : lines.splice(at, 1);
            if (what === 'later') lines.splice((at * 7) % (lines.length + 1), 0, line);
            // A line of another site, of the same kind and name where there is one.
            if (what === 'other')
              lines.splice(at, 0, spare.find((l) => l.split(':')[0] === line.split(':')[0]) ?? line);
            const now = lines.join('\n');
            const fresh = told(new ReachTable(Reach.of(siteFrom(now))));
            expect(told(new ReachTable(Reach.of(siteFrom(now)), memory)), now).to.deep.equal(fresh);
          }
        },
      ),
      { numRuns: 120, seed: 20261125 },
    );
  }).timeout(240_000);
});
