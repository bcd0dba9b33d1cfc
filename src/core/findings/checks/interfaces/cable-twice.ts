import type { Plug } from '#core/notation';
import { routingSwitch } from '#core/site';
import { check } from '../../finding';
import { cablesOf } from '../../queries';

type Cabled = ReturnType<typeof cablesOf>[number];

/** Two cables in one socket: a port or a jack that two things are plugged into. */
export const cableTwice = check({
  code: 'cable-twice',
  *run({ site }) {
    const seen = new Map<string, Cabled[]>();
    for (const one of cablesOf(site)) {
      const [s, plug] = one;
      // A switch that routes needs no cable to itself.
      if (s.kind === 'router' && routingSwitch(site.switches, plug)) continue;
      const socket = plug.to === 'port' ? plug.port : `${plug.switch}/${plug.jack}`;
      const here = seen.get(socket);
      const other = here?.find((o) => !mayShare(o, one));
      if (other)
        yield {
          statement: s,
          at: plug.at,
          others: [other[0]],
          values: { name: s.name, other: other[0].name, socket },
        };
      else if (here) here.push(one);
      else seen.set(socket, [one]);
    }
  },
});

/**
 * Whether two things may be on one cable: each has a tag of its own there. Of one machine with several systems in it
 * (stations, sides of a router) one may speak without.
 */
function mayShare([a, plugA]: Cabled, [b, plugB]: Cabled): boolean {
  const tags: readonly (Plug['tag'] | undefined)[] = [plugA.tag, plugB.tag];
  if (tags[0] === tags[1]) return false;
  if (a.kind === 'switch' || b.kind === 'switch') return false;
  return (
    (tags[0] !== undefined && tags[1] !== undefined) ||
    (a.kind === 'station' && b.kind === 'station') ||
    (a.kind === 'router' && a === b)
  );
}
