import { changeClauses } from '#core/edits';
import { coveredBy } from '#core/site';
import { check } from '../../finding';
import { live } from '../../queries';

/** On demand, and waits for nobody: no other uplink of its table is on duty, so that it never rests. */
export const onDemandAlone = check({
  code: 'on-demand-alone',
  *run({ site }) {
    for (const iface of live(site)) {
      if (!iface.onDemand || coveredBy(site, iface).length) continue;
      yield {
        statement: iface.statement,
        at: iface.statement.onDemand,
        values: { name: iface.name, table: iface.table },
        mends: [
          {
            what: 'remove-word',
            values: { word: 'on-demand' },
            changes: changeClauses(site, iface.statement, [{ do: 'remove', name: 'on-demand' }]),
          },
        ],
      };
    }
  },
});
