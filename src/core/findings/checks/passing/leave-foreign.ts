import { formatIp, formatPrefix } from '#core/addr';
import { changeClauses } from '#core/edits';
import type { Statement } from '#core/notation';
import { check } from '../../finding';
import { live, networks4, owns, phrase } from '../../queries';

/** A source address that its uplink does not own: answers to it never come back. */
export const leaveForeign = check({
  code: 'leave-foreign',
  *run(c) {
    const told = new Set<Statement>();
    for (const rule of c.rules.leaves) {
      if (rule.action.as !== 'address' || !rule.out.size || told.has(rule.statement)) continue;
      const { address } = rule.action;
      const outs = live(c.site).filter((i) => rule.out.has(i.name) && i.uplink);
      if (!outs.length || outs.some((i) => owns(c, i, address))) continue;
      told.add(rule.statement);
      const first = outs[0]!;
      const { as } = rule.statement;
      yield {
        statement: rule.statement,
        at: as?.by === 'address' ? as.address.at : as?.by === 'prefix' ? as.prefix.at : undefined,
        others: outs.map((i) => i.statement),
        values: {
          address: formatIp(address),
          out: phrase(outs.map((i) => i.name)),
          nets: phrase(outs.flatMap((i) => networks4(c, i).map(formatPrefix))),
        },
        mends: [
          {
            what: 'leave-as-interface',
            values: { name: first.name },
            changes: changeClauses(c.site, rule.statement, [{ do: 'set', name: 'as', text: 'as interface' }]),
          },
        ],
      };
    }
  },
});
