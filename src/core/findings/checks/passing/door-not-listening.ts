import { PROTO, ServiceSet, familyOf, formatIp } from '#core/addr';
import { check } from '../../finding';
import { eachDoor, homeOfDoor, stationAt } from '../../doors';

/** A door to a station that, by the wiring, does not listen to what it is sent. */
export const doorNotListening = check({
  code: 'door-not-listening',
  *run(c) {
    for (const rule of eachDoor(c)) {
      const home = homeOfDoor(c, rule);
      const station = home && stationAt(c, home, rule.inside);
      if (!station || station.supposed) continue;
      const family = familyOf(rule.inside);
      const any = rule.insideServices.some((s) => s.kind === 'any');
      const listens = station.listens.length ? ServiceSet.of(station.listens, family) : ServiceSet.empty;
      const ports = ServiceSet.of(
        [
          { kind: 'proto', proto: PROTO.tcp },
          { kind: 'proto', proto: PROTO.udp },
        ],
        family,
      );
      const asked = ServiceSet.of(rule.insideServices, family).intersect(ports);
      // A door for a whole address is well used by any service; one for ports is meant for those.
      const deaf = any ? listens.isEmpty : !asked.minus(listens).isEmpty;
      if (!deaf) continue;
      yield {
        statement: rule.statement,
        others: station.statement ? [station.statement] : [],
        values: {
          name: rule.name,
          station: station.name,
          inside: formatIp(rule.inside),
          services: any ? '' : asked.minus(listens).toText(),
          listens: listens.isEmpty ? 'nothing' : listens.toText(),
        },
      };
    }
  },
});
