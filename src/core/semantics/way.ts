/** Where a packet would go from here: the route that is taken, and those that also lead there with why they are not. */
import { contains, isIpv4 } from '#core/addr';
import type { Ip } from '#core/addr';
import { lookUp } from './routes';
import type { Route } from './routes';
import { shareBy } from './share';
import type { ShareRule } from './share';

export interface PassedOver {
  readonly route: Route;
  /**
   * A longer prefix, a lower distance, a better priority or an earlier place won; or the route is not usable; or it
   * takes its share of the sources.
   */
  readonly because: 'unusable' | 'shorter' | 'distance' | 'priority' | 'order' | 'shared';
}

export interface Whereabouts {
  readonly table: string;
  readonly destination: Ip;
  /** Absent: no usable route leads there. */
  readonly taken?: Route;
  readonly passedOver: readonly PassedOver[];
}

/** The way from a table to an address, by the lookup that every packet takes. */
export function wayTo(
  routes: readonly Route[],
  shares: readonly ShareRule[],
  table: string,
  destination: Ip,
): Whereabouts {
  const taken = lookUp(routes, table, destination);
  const passedOver = routes
    .filter((r) => r.table === table && r !== taken && contains(r.prefix, destination))
    .map((route): PassedOver => {
      if (!taken || !route.usable) return { route, because: 'unusable' };
      if (route.prefix.length !== taken.prefix.length) return { route, because: 'shorter' };
      if (route.distance !== taken.distance) return { route, because: 'distance' };
      if (route.priority !== taken.priority) return { route, because: 'priority' };
      const rule = isIpv4(destination) ? shareBy(shares, taken) : undefined;
      return { route, because: rule && shareBy([rule], route) ? 'shared' : 'order' };
    });
  return { table, destination, taken, passedOver };
}
