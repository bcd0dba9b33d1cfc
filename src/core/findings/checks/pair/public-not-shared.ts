import { formatIp } from '#core/addr';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import { ownAndShared, uplinks } from '../../queries';

/** Who leaves as the interface shows the address of one box: after a take-over the world sees another. */
export const publicNotShared = check({
  code: 'public-not-shared',
  *run({ site }) {
    for (const iface of uplinks(site)) {
      const both = ownAndShared(iface);
      const leave =
        both &&
        site.leaves.find(
          (l) => l.as?.by === 'interface' && (l.via.name === iface.name || l.via.name === iface.zone?.name),
        );
      if (!leave) continue;
      const text = `as ${formatIp(both.shared)}`;
      yield {
        statement: leave,
        others: [iface.statement],
        values: { name: iface.name, own: formatIp(both.own), shared: formatIp(both.shared) },
        mends: [
          {
            what: 'write-instead',
            values: { text },
            changes: changeClauses(site, leave, [{ do: 'set', name: 'as', text }]),
          },
        ],
      };
    }
  },
});
