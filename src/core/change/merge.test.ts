import { expect } from 'chai';
import fc from 'fast-check';
import { applyEdits, parseDocument, printStatement } from '#core/notation';
import type { FileChange } from '#core/notation';
import { buildSite } from '#core/site';
import type { Site } from '#core/site';
import { anyCrossing } from '#core/testkit';
import { diffSites, mergeDraft } from './index';

const siteOf = (text: string): Site => buildSite([parseDocument(text, 'box.gate')]);
const applied = (site: Site, changes: readonly FileChange[]): Site => {
  const { text } = site.documents[0]!;
  return siteOf(changes[0] ? applyEdits(text, changes[0].edits) : text);
};
const differ = (a: Site, b: Site) => diffSites(a, b).filter((c) => c.kind !== 'order');

const BASE = `box tide: names 192.0.2.53
zone world: upstream
zone studio:
interface fibre: on p1, zone world, address 198.51.100.18/29, gateway .17
# the makers
interface studio: on p2, zone studio, address 10.61.20.1/24, lends .50-.199, answers ping
passage studio > world: allow tcp 80
passage studio > world: allow dns
leave any > world: as interface
`;

describe('merging by statement', () => {
  const rows: readonly {
    readonly why: string;
    readonly theirs: readonly [string, string];
    readonly ours: readonly [string, string];
    /** What the draft reads then; absent where the sides clash. */
    readonly reads?: RegExp;
    readonly clash?: string;
  }[] = [
    {
      why: 'each changed another statement',
      theirs: ['allow dns', 'allow dns ping'],
      ours: ['.50-.199', '.60-.99'],
      reads: /lends \.60-\.99[\s\S]*allow dns ping/,
    },
    {
      why: 'each changed another clause of one statement',
      theirs: ['answers ping', 'answers ping dns'],
      ours: ['.50-.199', '.60-.99'],
      reads: /# the makers\ninterface studio: .*lends \.60-\.99, answers ping dns\n/,
    },
    {
      why: 'a new passage goes where it stands with them',
      theirs: [
        'passage studio > world: allow dns',
        'passage studio > world: drop tcp 25\npassage studio > world: allow dns',
      ],
      ours: ['allow tcp 80', 'allow tcp 80 443'],
      reads: /tcp 80 443\npassage studio > world: drop tcp 25\npassage studio > world: allow dns/,
    },
    {
      why: 'both did the same',
      theirs: ['.50-.199', '.60-.99'],
      ours: ['.50-.199', '10.61.20.60-10.61.20.99'],
      reads: /10\.61\.20\.60/,
    },
    {
      why: 'one clause that both changed',
      theirs: ['.50-.199', '.60-.99'],
      ours: ['.50-.199', '.70-.99'],
      clash: 'interface/studio',
    },
    {
      why: 'one took out what the other changed',
      theirs: ['passage studio > world: allow dns\n', ''],
      ours: ['allow dns', 'allow dns ping'],
      clash: 'passage/studio>world#2',
    },
    {
      why: 'both made another thing of one name',
      theirs: ['leave', 'zone lab:\nleave'],
      ours: ['leave', 'zone lab: dmz\nleave'],
      clash: 'zone/lab',
    },
  ];
  for (const { why, theirs, ours, reads, clash } of rows)
    it(why, () => {
      const [base, there, here] = [BASE, BASE.replace(...theirs), BASE.replace(...ours)].map(siteOf);
      const merge = mergeDraft(base!, there!, here!);
      expect(merge.clashes.map((c) => c.subject)).to.deep.equal(clash ? [clash] : []);
      const merged = applied(here!, merge.changes);
      if (reads) expect(merged.documents[0]!.text).to.match(reads);
      // Taking their side of what clashes leaves the draft as they have it.
      if (clash) expect(differ(applied(here!, merge.clashes[0]!.take), there!)).to.deep.equal([]);
    });

  it('takes all of theirs where nothing was changed, and nothing where they changed nothing', () => {
    fc.assert(
      fc.property(anyCrossing, ({ running, draft }) => {
        const [base, theirs] = [siteOf(running), siteOf(draft)];
        const merge = mergeDraft(base, theirs, base);
        expect(merge.clashes.filter((c) => c.take.length)).to.deep.equal([]);
        expect(differ(applied(base, merge.changes), theirs)).to.deep.equal([]);
        expect(mergeDraft(base, base, theirs)).to.deep.equal({ changes: [], taken: [], clashes: [] });
        expect(differ(applied(theirs, mergeDraft(base, theirs, theirs).changes), theirs)).to.deep.equal([]);
      }),
      { numRuns: 150 },
    );
  });

  it('loses nothing of either side', () => {
    fc.assert(
      fc.property(anyCrossing, anyCrossing, (one, two) => {
        const [base, theirs] = [siteOf(one.running), siteOf(one.draft)];
        const ours = siteOf(
          `${one.running}${two.draft
            .split('\n')
            .filter((l) => l.startsWith('passage'))
            .join('\n')}\nzone mine:\n`,
        );
        const merge = mergeDraft(base, theirs, ours);
        const merged = applied(ours, merge.changes);
        const clashed = new Set(merge.clashes.map((c) => c.subject));
        const there = new Set(merged.statements.map((s) => printStatement(s)));
        for (const side of [ours, theirs])
          for (const c of differ(base, side))
            if (c.kind === 'added' && !clashed.has(c.subject)) expect(there).to.include(c.text);
      }),
      { numRuns: 150 },
    );
  });
});
