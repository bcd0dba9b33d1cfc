import { formatPrefix, overlaps } from '#core/addr';
import type { Check } from '../../finding';
import { live, networks4, pairs } from '../../queries';

/** The same addresses in two routing tables: allowed, and said once. */
export const subnetDuplicateInOtherTable: Check = {
  code: 'subnet-duplicate-in-other-table',
  *run(c) {
    for (const [a, b] of pairs(live(c.site))) {
      if (a.table === b.table) continue;
      const shared = networks4(c, a).find((n) => networks4(c, b).some((m) => overlaps(n, m)));
      if (!shared) continue;
      yield {
        statement: b.statement,
        others: [a.statement],
        values: {
          net: formatPrefix(shared),
          name: b.name,
          table: b.table,
          other: a.name,
          otherTable: a.table,
        },
      };
      return;
    }
  },
};
