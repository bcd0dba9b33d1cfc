import { changeClauses } from '#core/edits';
import { ETHERNET_MTU, linkMtu } from '#core/site';
import { check } from '../../finding';
import { uplinks } from '../../queries';

/** Segments are not made to fit a line that carries less than Ethernet does, where "too big" is often lost on the way. */
export const mssOff = check({
  code: 'mss-off',
  *run({ site }) {
    for (const iface of uplinks(site)) {
      const { mss, carrier } = iface.statement;
      const mtu = linkMtu(site, iface);
      if (mss?.value !== 'off' || (carrier?.by !== 'pppoe' && mtu >= ETHERNET_MTU)) continue;
      yield {
        statement: iface.statement,
        at: mss.at,
        values: { name: iface.name, mtu: String(mtu) },
        mends: [
          {
            what: 'set-mss',
            values: { mss: 'auto' },
            changes: changeClauses(site, iface.statement, [{ do: 'set', name: 'mss', text: 'mss auto' }]),
          },
        ],
      };
    }
  },
});
