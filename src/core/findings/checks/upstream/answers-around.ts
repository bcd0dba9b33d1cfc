import { formatPrefix, networkOf } from '#core/addr';
import { stationsOf } from '#core/site';
import { check } from '../../finding';
import { routersBefore } from '../../queries';

/**
 * Stations on the network by which the box speaks to a router inside: they ask the box, and the router answers them
 * straight, so that the box hears half of each connection and lets no more of it through.
 */
export const answersAround = check({
  code: 'answers-around',
  *run(c) {
    for (const { router, leg, iface, behind } of routersBefore(c)) {
      const asking = stationsOf(c.wiring, iface).filter(
        (s) => s.statement && !s.off && s.gateway !== leg.address.address,
      );
      const [first] = asking;
      if (!behind.length || (!first && !iface.pools.length)) continue;
      // Who may not get there is answered by nobody.
      const { zone } = iface;
      if (
        zone?.within === 'drop' &&
        !c.site.passages.some((p) => p.from?.name === zone.name && p.to?.name === zone.name)
      )
        continue;
      yield {
        statement: router.statement,
        at: router.statement.legs.find((l) => l.value.plug === leg.plug)?.at,
        others: [iface.statement, ...asking.flatMap((s) => s.statement ?? []).slice(0, 3)],
        values: {
          router: router.name,
          name: iface.name,
          net: formatPrefix(networkOf(behind[0]!.address)),
          who: first
            ? asking.length > 1
              ? `${first.name} and others`
              : first.name
            : `who leases of ${iface.name}`,
        },
      };
    }
  },
});
