import { contains, formatIp } from '#core/addr';
import type { Ip } from '#core/addr';
import { interfaceAt, routersOn } from '#core/site';
import { check } from '../../finding';
import { setGateway } from '../../mending';
import { addressPhrase } from '../../queries';

/** A router inside that has no gateway, or one that nobody has: what is behind it gets nowhere. */
export const routerGatewayForeign = check({
  code: 'router-gateway-foreign',
  *run(c) {
    for (const router of c.wiring.routers) {
      const { gateway, statement } = router;
      // Whom it could hand on to: the box, or routers beside it.
      const next = router.legs.flatMap((leg) => {
        const iface = interfaceAt(c.site, leg.landing);
        if (iface?.uplink) return [];
        const own: Ip[] = iface?.addresses.map((a) => a.prefix.address) ?? [];
        const others = routersOn(c.wiring, leg.segment).filter((o) => o.router !== router);
        return [
          ...(iface ? [{ leg, who: iface.name, own, statement: iface.statement }] : []),
          ...others.map((o) => ({
            leg,
            who: `router ${o.router.name}`,
            own: [o.leg.address.address],
            statement: o.router.statement,
          })),
        ];
      });
      const [first] = next;
      if (!first || router.legs.length < 2) continue;
      if (gateway !== undefined && next.some((n) => n.own.includes(gateway))) continue;
      const right = first.own.find((a) => contains(first.leg.address, a));
      yield {
        statement,
        at: statement.gateway?.at,
        others: [first.statement],
        values: {
          name: router.name,
          gateway: gateway === undefined ? '' : formatIp(gateway),
          interface: first.who,
          own: addressPhrase(first.own),
        },
        mends: right === undefined ? [] : [setGateway(c.site, statement, right)],
      };
    }
  },
});
