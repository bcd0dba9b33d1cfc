import type { StatementOf } from '#core/notation';
import { check } from '../../finding';

/** Two cables in one socket: a port or a jack that two things are plugged into. */
export const cableTwice = check({
  code: 'cable-twice',
  *run({ site }) {
    const seen = new Map<string, StatementOf<'circuit' | 'switch' | 'station'>>();
    for (const s of [...site.circuits, ...site.switches, ...site.stations]) {
      if (!s.plug) continue;
      const tagged = s.kind === 'circuit' && s.plug.to === 'port' && s.plug.tag !== undefined;
      const socket = s.plug.to === 'port' ? s.plug.port : `${s.plug.switch}/${s.plug.jack}`;
      const key = tagged && s.plug.to === 'port' ? `${socket} tag ${s.plug.tag}` : socket;
      const other =
        seen.get(key) ??
        // Circuits share a port only while each has a tag of its own.
        [...seen].find(
          ([k, o]) => k.startsWith(`${socket} tag `) && !(tagged && o.kind === 'circuit'),
        )?.[1] ??
        (tagged ? seen.get(socket) : undefined);
      if (other)
        yield {
          statement: s,
          at: s.plug.at,
          others: [other],
          values: { name: s.name, other: other.name, socket },
        };
      else seen.set(key, s);
    }
  },
});
