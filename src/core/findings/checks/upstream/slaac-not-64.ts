import { clausesOf } from '#core/notation';
import { formatPrefix, isIpv4, networkOf } from '#core/addr';
import { changeClauses } from '#core/edits';
import { statedCircuits } from '../../queries';
import { check } from '../../finding';
import type { Mend } from '../../finding';
import { live } from '../../queries';

/** Hosts make their own addresses in a /64 only (RFC 4862 §5.5.3, RFC 4291 §2.5.1): on the line, or inside. */
export const slaacNot64 = check({
  code: 'slaac-not-64',
  *run(c) {
    for (const iface of live(c.site)) {
      const { statement } = iface;
      if (iface.auto6.slaac) {
        const circuit = statedCircuits(c, iface).find((x) => x.block6 && x.block6.length !== 64);
        const slaac = statement.address6.find((a) => a.value.by === 'slaac')!;
        const nth = clausesOf(statement, 'address6').length === 1;
        const mends: Mend[] =
          circuit?.lends6 && nth
            ? [
                {
                  what: 'by-dhcpv6',
                  values: { name: iface.name },
                  changes: changeClauses(c.site, statement, [
                    { do: 'set', name: 'address6', text: 'address6 by dhcpv6' },
                  ]),
                },
              ]
            : [];
        if (circuit?.block6)
          yield {
            statement,
            at: slaac.at,
            others: circuit.statement ? [circuit.statement] : [],
            values: { name: iface.name, net: formatPrefix(circuit.block6), who: circuit.name },
            mends,
          };
      }
      if (!statement.advertises) continue;
      const own = iface.addresses.filter((a) => !isIpv4(a.prefix.address));
      const wrong = own.find((a) => a.prefix.length !== 64);
      if (!wrong || own.some((a) => a.prefix.length === 64)) continue;
      const single = own.length === 1 && clausesOf(statement, 'address6').length === 1;
      const text = formatPrefix({ ...wrong.prefix, length: 64 });
      yield {
        statement,
        at: wrong.at,
        values: { name: iface.name, net: formatPrefix(networkOf(wrong.prefix)), who: iface.name },
        mends: single
          ? [
              {
                what: 'set-length',
                values: { length: '/64' },
                changes: changeClauses(c.site, statement, [
                  { do: 'set', name: 'address6', text: `address6 ${text}` },
                ]),
              },
            ]
          : [],
      };
    }
  },
});
