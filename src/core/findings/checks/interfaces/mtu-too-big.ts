import { changeClauses } from '#core/edits';
import type { Check } from '../../finding';
import { live } from '../../queries';

/** An interface that may send longer packets than its port. */
export const mtuTooBig: Check = {
  code: 'mtu-too-big',
  *run({ site }) {
    for (const iface of live(site)) {
      const { mtu, carrier } = iface.statement;
      const ports = iface.ports.flatMap((p) => site.ports.get(p) ?? []);
      if (!mtu || !ports.length) continue;
      const most = Math.min(...ports.map((p) => p.mtu)) - (carrier?.by === 'pppoe' ? 8 : 0);
      if (mtu.value <= most) continue;
      yield {
        statement: iface.statement,
        at: mtu.at,
        values: {
          name: iface.name,
          mtu: String(mtu.value),
          most: String(most),
          port: iface.ports.join('+'),
        },
        mends: [
          {
            what: 'set-mtu',
            values: { mtu: String(most) },
            changes: changeClauses(site, iface.statement, [{ do: 'set', name: 'mtu', text: `mtu ${most}` }]),
          },
        ],
      };
    }
  },
};
