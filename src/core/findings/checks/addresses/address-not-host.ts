import {
  broadcastOf,
  formatIp,
  formatPrefix,
  hostRange,
  isIpv4,
  networkOf,
  notAHostAddress,
  offsetIp,
} from '#core/addr';
import type { Ip } from '#core/addr';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';

/** The network's own address or its broadcast address given to an interface or a station. */
export const addressNotHost = check({
  code: 'address-not-host',
  *run({ site }) {
    const stations = site.stations.flatMap((s) =>
      s.address?.value.by === 'static' ? [{ s, prefix: s.address.value.prefix, at: s.address.at }] : [],
    );
    const own = site.interfaces.flatMap((i) =>
      i.addresses.map(({ prefix, at }) => ({ s: i.statement, prefix, at })),
    );
    for (const { s, prefix, at } of [...own, ...stations]) {
      if (!isIpv4(prefix.address) || prefix.length > 30 || notAHostAddress(prefix.address)) continue;
      const net = networkOf(prefix).address;
      const last = broadcastOf(prefix);
      const which = prefix.address === net ? 'network' : prefix.address === last ? 'broadcast' : undefined;
      if (!which) continue;
      const { first, last: top } = hostRange(prefix);
      const taken = new Set<Ip | undefined>([
        'gateway' in s &&
        s.gateway?.value &&
        typeof s.gateway.value === 'object' &&
        s.gateway.value.by === 'address'
          ? s.gateway.value.address
          : undefined,
        ...own.filter((o) => o.s === s).map((o) => o.prefix.address),
      ]);
      const step = which === 'network' ? 1 : -1;
      let free: Ip | undefined = which === 'network' ? first : top;
      while (free !== undefined && free >= first && free <= top && taken.has(free))
        free = offsetIp(free, step);
      const better = formatIp(free ?? first);
      const sole = prefix === (own.find((o) => o.s === s)?.prefix ?? prefix);
      yield {
        statement: s,
        at,
        values: {
          name: s.name,
          address: formatPrefix(prefix),
          which,
          first: formatIp(first),
          last: formatIp(top),
        },
        mends: sole
          ? [
              {
                what: 'use-address',
                values: { address: `${better}/${prefix.length}` },
                changes: changeClauses(site, s, [
                  { do: 'set', name: 'address', text: `address ${better}/${prefix.length}` },
                ]),
              },
            ]
          : [],
      };
    }
  },
});
