import { changeClauses } from '#core/edits';
import { coveredBy } from '#core/site';
import { check } from '../../finding';
import { live } from '../../queries';

/** On standby for nobody: no other uplink of its table is on duty, so that it never rests. */
export const standbyAlone = check({
  code: 'standby-alone',
  *run({ site }) {
    for (const iface of live(site)) {
      if (!iface.standby || coveredBy(site, iface).length) continue;
      yield {
        statement: iface.statement,
        at: iface.statement.standby,
        values: { name: iface.name, table: iface.table },
        mends: [
          {
            what: 'remove-word',
            values: { word: 'standby' },
            changes: changeClauses(site, iface.statement, [{ do: 'remove', name: 'standby' }]),
          },
        ],
      };
    }
  },
});
