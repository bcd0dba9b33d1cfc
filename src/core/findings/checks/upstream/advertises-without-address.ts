import { changeClauses } from '#core/edits';
import { wantsDelegation } from '#core/site';
import type { Interface, Site } from '#core/site';
import type { Check, Context, Mend } from '../../finding';
import { live, statedCircuits, uplinks } from '../../queries';

/** Router advertisements without a network to advertise. */
export const advertisesWithoutAddress: Check = {
  code: 'advertises-without-address',
  *run(c) {
    for (const iface of live(c.site)) {
      const { advertises } = iface.statement;
      if (!advertises || iface.speaks6) continue;
      yield {
        statement: iface.statement,
        at: advertises,
        values: { name: iface.name },
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
};

/** Numbers the interface from what an uplink has delegated, where one does. */
function delegatedMend(c: Context, iface: Interface): Mend[] {
  const source = uplinks(c.site).find(
    (u) => wantsDelegation(c.site, u) || statedCircuits(c, u).some((x) => x.delegates6),
  );
  if (!source) return [];
  const text = `address6 from ${source.name} subnet ${freeSubnet(c.site, source)}`;
  return [
    {
      what: 'number-from',
      values: { text },
      changes: changeClauses(c.site, iface.statement, [{ do: 'add', text }]),
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
