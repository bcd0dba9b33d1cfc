import { formatMac } from '#core/addr';
import type { Mac } from '#core/addr';
import type { Statement } from '#core/notation';
import { check } from '../../finding';

/** One MAC address given to two stations, ports or interfaces. */
export const macDuplicate = check({
  code: 'mac-duplicate',
  *run({ site }) {
    const seen = new Map<Mac, { statement: Statement; name: string }>();
    const all = [
      ...[...site.ports.values()].flatMap((p) =>
        p.statement?.mac ? [{ s: p.statement, mac: p.statement.mac, name: `port ${p.name}` }] : [],
      ),
      ...site.interfaces.flatMap((i) =>
        i.statement.mac ? [{ s: i.statement, mac: i.statement.mac, name: `interface ${i.name}` }] : [],
      ),
      ...site.stations.flatMap((s) => (s.mac ? [{ s: s, mac: s.mac, name: `station ${s.name}` }] : [])),
    ];
    for (const { s, mac, name } of all) {
      const other = seen.get(mac.value);
      if (other)
        yield {
          statement: s,
          at: mac.at,
          others: [other.statement],
          values: { mac: formatMac(mac.value), name, other: other.name },
        };
      else seen.set(mac.value, { statement: s, name });
    }
  },
});
