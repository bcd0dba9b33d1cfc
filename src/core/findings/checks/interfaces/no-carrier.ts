import { check } from '../../finding';
import { live, statedCircuits } from '../../queries';

/** Nothing alive on the cable: the only circuit there is down. */
export const noCarrier = check({
  code: 'no-carrier',
  *run(c) {
    for (const iface of live(c.site)) {
      const circuits = statedCircuits(c, iface);
      const down = circuits[0];
      if (!down?.statement || !circuits.every((x) => x.down)) continue;
      yield {
        statement: iface.statement,
        at: iface.statement.carrier?.at,
        others: [down.statement],
        values: { name: iface.name, port: iface.ports.join('+'), circuit: down.name },
      };
    }
  },
});
