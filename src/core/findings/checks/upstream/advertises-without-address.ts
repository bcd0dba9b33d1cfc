import { changeClauses } from '#core/edits';
import { formatPrefix, isIpv4 } from '#core/addr';
import { circuitsOf, networksOf } from '#core/site';
import type { Interface, Site } from '#core/site';
import { check } from '../../finding';
import type { Context, Mend } from '../../finding';
import { live, uplinks } from '../../queries';

/** Router advertisements without a network: none is written, none delegated, or not so many. */
export const advertisesWithoutAddress = check({
  code: 'advertises-without-address',
  *run(c) {
    for (const iface of live(c.site)) {
      const { advertises } = iface.statement;
      if (!advertises || networksOf(iface, c.prospects).some((n) => !isIpv4(n.address))) continue;
      const [from] = iface.auto6.from;
      const delegated = from && c.prospects.uplinks6.get(from.interface)?.delegated;
      yield {
        statement: iface.statement,
        at: advertises,
        values: {
          name: iface.name,
          from: from?.interface ?? '',
          subnet: delegated ? String(from.subnet) : '',
          delegated: delegated ? formatPrefix(delegated) : '',
        },
        mends: [
          ...delegatedMend(c, iface),
          {
            what: 'remove-word',
            values: { word: 'advertises' },
            changes: changeClauses(c.site, iface.statement, [{ do: 'remove', name: 'advertises' }]),
          },
        ],
      };
    }
  },
});

/** Numbers the interface from what an uplink has delegated, where one does. */
function delegatedMend(c: Context, iface: Interface): Mend[] {
  const source = uplinks(c.site).find((u) => circuitsOf(c.wiring, u).some((x) => x.delegates6));
  if (!source) return [];
  const text = `address6 from ${source.name} subnet ${freeSubnet(c.site, source)}`;
  return [
    {
      what: 'number-from',
      values: { text },
      changes: changeClauses(c.site, iface.statement, [{ do: 'set', name: 'address6', text }]),
    },
  ];
}

/** The lowest number of a delegated /64 that no interface has. */
function freeSubnet(site: Site, source: Interface): number {
  const used = new Set(
    site.interfaces.flatMap((i) =>
      i.auto6.from.filter((f) => f.interface === source.name).map((f) => f.subnet),
    ),
  );
  let n = 0;
  while (used.has(n)) n++;
  return n;
}
