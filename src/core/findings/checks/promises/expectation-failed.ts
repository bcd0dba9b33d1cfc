import { isSpecial } from '#core/addr';
import { becauseOf, judgeOnSets } from '#core/reach';
import { textOf } from '#core/edits';
import { check } from '../../finding';

/** A promise that does not hold for every flow it speaks of, with all uplinks live. */
export const expectationFailed = check({
  code: 'expectation-failed',
  *run(c) {
    for (const statement of c.site.expects) {
      // With a line that has failed only the bench knows what the box does.
      if (statement.fault) continue;
      const result = judgeOnSets(c.reach, statement);
      if (!result || result.holds) continue;
      const { why, witness } = result;
      const lost = why.why === 'box' && why.end === 'no-route' && witness && !isSpecial(witness.destination);
      yield {
        statement,
        others: 'statement' in why && why.statement ? [why.statement] : [],
        values: { text: textOf(c.site, statement), outward: lost ? 'yes' : '', ...becauseOf(result) },
      };
    }
  },
});
