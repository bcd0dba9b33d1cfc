import { ServiceSet, familyOf, formatIp } from '#core/addr';
import type { Ip } from '#core/addr';
import { memo } from '#core/base';
import type { DoorRule } from '#core/semantics';
import { addressesOf } from '#core/site';
import type { Interface } from '#core/site';
import { check } from '../../finding';
import { live } from '../../queries';

/** Two doors for one service, or a door over a service that the box answers at that address. */
export const doorClash = check({
  code: 'door-clash',
  *run(c) {
    const { doors } = c.rules;
    const holders = new Map<Ip, Interface[]>();
    for (const iface of live(c.site))
      for (const { address } of addressesOf(iface, c.prospects)) memo(holders, address, () => []).push(iface);
    const servicesOf = (d: DoorRule) => ServiceSet.of(d.services, familyOf(d.outside));
    for (const [i, rule] of doors.entries()) {
      const mine = servicesOf(rule);
      const other = doors
        .slice(0, i)
        .find(
          (d) =>
            d.outside === rule.outside &&
            !mine.intersect(servicesOf(d)).isEmpty &&
            (!d.sources || !rule.sources || d.sources.meets(rule.sources)),
        );
      const address = formatIp(rule.outside);
      if (other) {
        yield {
          statement: rule.statement,
          others: [other.statement],
          values: {
            name: rule.name,
            address,
            services: mine.intersect(servicesOf(other)).toText(),
            other: `door ${other.name}`,
            line: String(other.statement.line),
          },
        };
        continue;
      }
      for (const iface of holders.get(rule.outside) ?? []) {
        const answered = (c.rules.answers.get(iface.name) ?? [])
          .filter((a) => !a.sources || !rule.sources || a.sources.meets(rule.sources))
          .map((a) => ServiceSet.of(a.services, familyOf(rule.outside)).intersect(mine))
          .filter((s) => !s.isEmpty);
        if (!answered.length) continue;
        yield {
          statement: rule.statement,
          others: [iface.statement],
          values: {
            name: rule.name,
            address,
            services: answered.reduce((a, b) => a.union(b)).toText(),
            other: `the box itself on ${iface.name}`,
            line: String(iface.statement.line),
          },
        };
      }
    }
  },
});
