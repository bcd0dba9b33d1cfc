/** Every mend that is offered does what it says: over generated sites with the mistakes that people make. */
import { expect } from 'chai';
import fc from 'fast-check';
import { contextOf, findAll, withProvenMends } from '#core/findings';
import type { Finding, Mend } from '#core/findings';
import { printStatement } from '#core/notation';
import type { Site } from '#core/site';
import { anyBrokenSite, changed, howMany, reachFrom, reachOf, seedOr, siteFrom } from '#core/testkit';
import { mendText } from '#words';

const SITES = howMany(10, 60);

const errorsOf = (findings: readonly Finding[]): Map<string, number> => {
  const out = new Map<string, number>();
  for (const f of findings) if (f.severity === 'error') out.set(f.code, (out.get(f.code) ?? 0) + 1);
  return out;
};

/** Statements as they mean, with how often each stands there. */
const statementsOf = (site: Site): string[] => site.statements.map((s) => printStatement(s));

/** What a mend changed: what it took away, and what it put there. */
function touched(before: Site, after: Site): string[] {
  const [was, is] = [statementsOf(before), statementsOf(after)];
  return [...was.filter((s) => !is.includes(s)), ...is.filter((s) => !was.includes(s))];
}

/** Whether a statement is one that the finding or the label of the mend speaks of. */
function isNamed(text: string, finding: Finding, mend: Mend, site: Site): boolean {
  const parts = site.statements.filter((s) => s.subject === finding.subject || finding.others.includes(s));
  const [, name = ''] = text.split(/[\s:]+/);
  if (
    parts.some((s) => ('name' in s && s.name === name && text.startsWith(s.kind)) || text.startsWith(s.kind))
  )
    return true;
  const words = [...Object.values(finding.values), ...Object.values(mend.values), mendText(mend)].join(' ');
  // A network that moves takes along what stands in it.
  return words
    .split(/[^a-z0-9.-]+/i)
    .some(
      (w) =>
        w.length > 1 &&
        (text.includes(w) || text.includes(w.replace(/^([0-9]+[.][0-9]+[.][0-9]+[.])[0-9]+$/, '$1'))),
    );
}

describe('mends', () => {
  it('clear what they are offered for, bring no error, and touch what they name', () => {
    let tried = 0;
    fc.assert(
      fc.property(anyBrokenSite, (text) => {
        const site = siteFrom(text);
        const context = contextOf(reachOf(site));
        const all = findAll(context);
        expect(new Set(all.map((f) => f.id)).size, 'every finding has a name of its own').to.equal(
          all.length,
        );
        const before = errorsOf(all);
        for (const finding of withProvenMends(context, all))
          for (const mend of finding.mends) {
            tried++;
            const next = siteFrom(changed(text, mend.changes));
            const after = findAll(contextOf(reachOf(next)));
            const label = `${finding.id}: ${mendText(mend)}\n${text}`;
            expect(
              after.map((f) => f.id),
              label,
            ).to.not.include(finding.id);
            for (const [code, n] of errorsOf(after))
              expect(n, `${code} after ${label}`).to.be.at.most(before.get(code) ?? 0);
            for (const statement of touched(site, next))
              expect(isNamed(statement, finding, mend, site), `${statement} touched by ${label}`).to.equal(
                true,
              );
          }
      }),
      { numRuns: SITES, seed: seedOr(11) },
    );
    expect(tried).to.be.above(SITES);
  });

  it('of two findings of one code on one subject each has its own', () => {
    const text = `zone a:
interface one: on p1, zone a, address 10.61.1.1/24, lends .0-.5 .1-.3, lends 10.61.9.1-.9 10.61.8.1-.9
`;
    const context = contextOf(reachFrom(text));
    const twins = findAll(context).filter((f) => f.code === 'lends-outside-subnet');
    expect(twins).to.have.length(2);
    const [, second] = twins;
    expect(second!.id).to.not.equal(twins[0]!.id);
    const after = findAll(contextOf(reachFrom(changed(text, second!.mends[0]!.changes)))).map((f) => f.id);
    expect(after).to.include(twins[0]!.id).and.not.include(second!.id);
  });
});
