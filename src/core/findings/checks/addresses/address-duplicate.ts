import { formatIp } from '#core/addr';
import type { Ip } from '#core/addr';
import { memo } from '#core/base';
import type { Statement } from '#core/notation';
import { claimantAt, landingOf } from '#core/site';
import { check } from '../../finding';
import { live } from '../../queries';

/** One address twice: on the box in one table, or taken by a known host, a keep or a station. */
export const addressDuplicate = check({
  code: 'address-duplicate',
  *run(c) {
    const seen = new Map<string, { who: string; statement: Statement }>();
    for (const iface of c.site.interfaces) {
      if (iface.off) continue;
      for (const { prefix, at } of iface.addresses) {
        const key = `${iface.table} ${formatIp(prefix.address)}`;
        const other = seen.get(key);
        if (other)
          yield {
            statement: iface.statement,
            at,
            others: [other.statement],
            values: { address: formatIp(prefix.address), name: iface.name, other: other.who },
          };
        else seen.set(key, { who: `interface ${iface.name}`, statement: iface.statement });
      }
    }
    const anywhere = new Map<string, { who: string; statement: Statement }>();
    for (const [key, one] of seen) memo(anywhere, key.slice(key.indexOf(' ') + 1), () => one);
    // What the other of two boxes has is nobody else's either.
    for (const iface of live(c.site)) {
      const { other } = iface.shared ?? {};
      const key = other !== undefined && `${iface.table} ${formatIp(other)}`;
      if (!key) continue;
      const taken = seen.get(key);
      if (taken)
        yield {
          statement: iface.statement,
          at: iface.statement.virtual?.value.other?.at,
          others: [taken.statement],
          values: { address: formatIp(other), name: `the twin on ${iface.name}`, other: taken.who },
        };
      else seen.set(key, { who: `the twin on ${iface.name}`, statement: iface.statement });
    }
    const own = (address: Ip, table?: string) =>
      table === undefined ? anywhere.get(formatIp(address)) : seen.get(`${table} ${formatIp(address)}`);
    for (const iface of live(c.site))
      for (const keep of iface.statement.keeps) {
        const other = own(keep.address.value, iface.table);
        if (other)
          yield {
            statement: iface.statement,
            at: keep.address.at,
            others: [other.statement],
            values: {
              address: formatIp(keep.address.value),
              name: `a keep of ${iface.name}`,
              other: other.who,
            },
          };
      }
    const stations = new Map<string, Statement>();
    for (const s of c.site.stations) {
      if (s.off || s.address?.value.by !== 'static') continue;
      const { address } = s.address.value.prefix;
      const landing = landingOf(c.site, s.plug);
      const iface = claimantAt(c.site, landing);
      const other = own(address, iface?.table);
      const key = `${iface?.table ?? ''} ${formatIp(address)}`;
      const twin = stations.get(key);
      if (other || twin)
        yield {
          statement: s,
          at: s.address.at,
          others: [other?.statement ?? twin!],
          values: {
            address: formatIp(address),
            name: s.name,
            other: other?.who ?? `station ${'name' in twin! ? twin.name : ''}`,
          },
        };
      else stations.set(key, s);
    }
    for (const { statement, legs } of c.wiring.routers)
      for (const leg of legs) {
        const { address } = leg.address;
        const iface = claimantAt(c.site, leg.landing);
        const other = iface && own(address, iface.table);
        const key = `${iface?.table ?? ''} ${formatIp(address)}`;
        const twin = stations.get(key);
        if (other || twin)
          yield {
            statement,
            at: statement.legs.find((l) => l.value.plug === leg.plug)?.at,
            others: [other?.statement ?? twin!],
            values: {
              address: formatIp(address),
              name: `router ${statement.name}`,
              other: other?.who ?? ('name' in twin! ? `${twin.kind} ${twin.name}` : ''),
            },
          };
        else stations.set(key, statement);
      }
    for (const k of c.site.knowns)
      for (const { value, at } of k.items) {
        if (value.range.first !== value.range.last) continue;
        const other = own(value.range.first);
        if (other)
          yield {
            statement: k,
            at,
            others: [other.statement],
            values: { address: formatIp(value.range.first), name: `known ${k.name}`, other: other.who },
          };
      }
  },
});
