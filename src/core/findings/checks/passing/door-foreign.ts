import { formatIp, formatPrefix, hostRange, isIpv4, offsetIp } from '#core/addr';
import type { Ip } from '#core/addr';
import { addressesOf, gatewayOf } from '#core/site';
import type { Interface } from '#core/site';
import { check } from '../../finding';
import type { Context, Mend } from '../../finding';
import { eachDoor, ownersOf, withOutside } from '../../doors';
import { networks4, phrase, uplinks } from '../../queries';

/** A door at an address that no uplink owns: nobody outside is led there. */
export const doorForeign = check({
  code: 'door-foreign',
  *run(c) {
    const outs = uplinks(c.site);
    for (const rule of eachDoor(c)) {
      if (!outs.length || ownersOf(c, rule).length) continue;
      const { statement } = rule;
      if (!statement.outside || !('address' in statement.outside.value)) continue;
      const free = outs.flatMap((i) => freeOf(c, i) ?? []).slice(0, 1);
      yield {
        statement,
        at: statement.outside.at,
        others: outs.map((i) => i.statement),
        values: {
          address: formatIp(rule.outside),
          nets: phrase(outs.flatMap((i) => networks4(c, i).map(formatPrefix))),
        },
        mends: [
          ...free.map((address): Mend => ({
            what: 'door-at',
            values: { address: formatIp(address) },
            changes: withOutside(statement, formatIp(address)),
          })),
          ...outs.slice(0, 1).map((i): Mend => ({
            what: 'door-at-interface',
            values: { name: i.name },
            changes: withOutside(statement, i.name),
          })),
        ],
      };
    }
  },
});

/** The lowest address of an uplink's subnet that nothing uses yet. */
function freeOf(c: Context, iface: Interface): Ip | undefined {
  const used = new Set<Ip | undefined>([
    ...addressesOf(iface, c.prospects).map((a) => a.address),
    gatewayOf(iface, c.prospects),
    ...c.rules.doors.map((d) => d.outside),
    ...c.rules.leaves.flatMap((l) => (l.action.as === 'address' ? [l.action.address] : [])),
  ]);
  // A leased address brings no others with it.
  if (iface.dynamic) return undefined;
  for (const net of networks4(c, iface)) {
    const { first, last } = hostRange(net);
    for (let a: Ip | undefined = first; a !== undefined && isIpv4(a) && a <= last; a = offsetIp(a, 1))
      if (!used.has(a)) return a;
  }
  return undefined;
}
