import { routersOn } from '#core/site';
import { check } from '../../finding';
import { live, statedCircuits } from '../../queries';

/** Two DHCP servers on one segment. */
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
      const rival = routersOn(c.wiring, `interface ${iface.name}`).find(({ leg }) => leg.pool);
      if (pool && rival)
        yield {
          statement: iface.statement,
          at: pool.at,
          others: [rival.router.statement],
          values: { name: iface.name, other: `router ${rival.router.name}`, port: iface.ports.join('+') },
        };
    }
  },
});
