import { contains, formatIp } from '#core/addr';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import { addressPhrase, routersBefore } from '../../queries';
import { routerAt } from '#core/site';

/** A router inside that has no gateway, or one that nobody has: what is behind it gets nowhere. */
export const routerGatewayForeign = check({
  code: 'router-gateway-foreign',
  *run(c) {
    for (const { router, leg, iface, behind } of routersBefore(c)) {
      const { gateway, statement } = router;
      const own = iface.addresses.map((a) => a.prefix.address);
      const held =
        gateway !== undefined && (own.includes(gateway) || routerAt(c.wiring, leg.segment, gateway));
      // One that hands on to another router has its gateway there.
      const beyond = gateway !== undefined && !contains(leg.address, gateway);
      const known = beyond && router.legs.some((l) => routerAt(c.wiring, l.segment, gateway));
      if (held || known || !behind.length) continue;
      const right = own.find((a) => contains(leg.address, a));
      yield {
        statement,
        at: statement.gateway?.at,
        others: [iface.statement],
        values: {
          name: router.name,
          gateway: gateway === undefined ? '' : formatIp(gateway),
          interface: iface.name,
          own: addressPhrase(own),
        },
        mends:
          right === undefined
            ? []
            : [
                {
                  what: 'set-station-gateway',
                  values: { station: router.name, address: formatIp(right) },
                  changes: changeClauses(c.site, statement, [
                    { do: 'set', name: 'gateway', text: `gateway ${formatIp(right)}` },
                  ]),
                },
              ],
      };
    }
  },
});
