import { formatPrefix } from '#core/addr';
import { check } from '../../finding';
import { overlappingHomes } from '../../queries';

/** The same addresses in two routing tables: allowed, and said once. */
export const subnetDuplicateInOtherTable = check({
  code: 'subnet-duplicate-in-other-table',
  *run(c) {
    const found = overlappingHomes(c).find(([a, b]) => a.iface.table !== b.iface.table);
    if (!found) return;
    const [{ iface: a, net }, { iface: b }] = found;
    yield {
      statement: b.statement,
      others: [a.statement],
      values: {
        net: formatPrefix(net),
        name: b.name,
        table: b.table,
        other: a.name,
        otherTable: a.table,
      },
    };
  },
});
