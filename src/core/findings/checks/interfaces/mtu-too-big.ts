import { changeClauses } from '#core/edits';
import { carriedMtu } from '#core/site';
import { check } from '../../finding';
import { live } from '../../queries';

/** An interface that may send longer packets than its port. */
export const mtuTooBig = check({
  code: 'mtu-too-big',
  *run({ site }) {
    for (const iface of live(site)) {
      const { mtu } = iface.statement;
      if (!mtu || !iface.ports.length) continue;
      const most = carriedMtu(site, iface);
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
});
