import { IpSet } from '#core/addr';
import { landingOn, lendersAt } from '#core/site';
import { check } from '../../finding';
import { live, statedCircuits } from '../../queries';

/** Two DHCP servers on one segment that lend the same addresses, or one of a provider beside the box's. */
export const lendsTwoServers = check({
  code: 'lends-two-servers',
  *run(c) {
    for (const iface of live(c.site)) {
      const pool = iface.statement.lends[0];
      const circuit = statedCircuits(c, iface).find((x) => x.lends);
      if (pool && circuit?.statement && !iface.dynamic)
        yield {
          statement: iface.statement,
          at: pool.at,
          others: [circuit.statement],
          values: { name: iface.name, other: `circuit ${circuit.name}`, port: iface.ports.join('+') },
        };
      const landing = landingOn(iface);
      // Split ranges are how two servers stand in for each other.
      const own = IpSet.of(iface.pools.flatMap((p) => p.ranges));
      const rival =
        pool &&
        landing &&
        lendersAt(c.site, c.wiring, landing).find((l) => own.meets(IpSet.of(l.pool.ranges)));
      if (pool && rival)
        yield {
          statement: iface.statement,
          at: pool.at,
          others: rival.by.statement ? [rival.by.statement] : [],
          values: {
            name: iface.name,
            other: `${rival.by.statement?.kind ?? 'station'} ${rival.by.name}`,
            port: iface.ports.join('+'),
          },
        };
    }
  },
});
