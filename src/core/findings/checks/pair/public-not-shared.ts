import { formatIp, isIpv4 } from '#core/addr';
import { changeClauses } from '#core/edits';
import { gatewayAddress, primaryAddress } from '#core/site';
import { check } from '../../finding';
import { live } from '../../queries';

/** Who leaves as the interface shows the address of one box: after a take-over the world sees another. */
export const publicNotShared = check({
  code: 'public-not-shared',
  *run({ site }) {
    for (const iface of live(site)) {
      const own = primaryAddress(iface);
      if (!iface.uplink || !own || !isIpv4(own.address) || iface.shared?.other === undefined) continue;
      const shared = gatewayAddress(iface, { address: own.address, length: own.length });
      const leave = site.leaves.find(
        (l) => l.as?.by === 'interface' && (l.via.name === iface.name || l.via.name === iface.zone?.name),
      );
      if (!leave || shared === own.address) continue;
      yield {
        statement: leave,
        others: [iface.statement],
        values: { name: iface.name, own: formatIp(own.address), shared: formatIp(shared) },
        mends: [
          {
            what: 'write-instead',
            values: { text: `as ${formatIp(shared)}` },
            changes: changeClauses(site, leave, [{ do: 'set', name: 'as', text: `as ${formatIp(shared)}` }]),
          },
        ],
      };
    }
  },
});
