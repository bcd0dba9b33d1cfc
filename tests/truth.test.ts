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

describe('what bench and reach once differed in', () => {
  const LINE = `zone world: upstream
zone lab:
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17
circuit northmoor: at p1, block 198.51.100.16/29, gateway .17
interface lab: on p5, zone lab, address 10.61.1.1/24
station pc: at p5, address 10.61.1.10/24, gateway 10.61.1.1
far www.example: address 192.0.2.80
`;
  const rows: readonly (readonly [string, string])[] = [
    [
      'a door to another port before one of the whole address: what comes by the first is another service',
      `door d0: 198.51.100.18 tcp 443 > 10.61.1.10 tcp 8443
door d1: fibre > 10.61.1.10
expect internet never reaches lab tcp 443
expect internet never reaches lab tcp 8443
`,
    ],
  ];
  for (const [why, text] of rows)
    it(why, () => expect(comparePromises(siteFrom(LINE + text))).to.deep.equal([]));
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
