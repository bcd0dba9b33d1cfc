import { changeClauses } from '#core/edits';
import { linkMtu } from '#core/site';
import { check } from '../../finding';
import { live } from '../../queries';

/** Octets of the IPv4 and TCP headers, without options (RFC 9293 §3.7.1). */
const HEADERS = 40;

/** A segment size that, with its headers, is more than the interface carries. */
export const mssTooBig = check({
  code: 'mss-too-big',
  *run({ site }) {
    for (const iface of live(site)) {
      const { mss } = iface.statement;
      const most = linkMtu(site, iface) - HEADERS;
      if (!mss || typeof mss.value !== 'number' || mss.value <= most) continue;
      yield {
        statement: iface.statement,
        at: mss.at,
        values: { name: iface.name, mss: String(mss.value), most: String(most), mtu: String(most + HEADERS) },
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
