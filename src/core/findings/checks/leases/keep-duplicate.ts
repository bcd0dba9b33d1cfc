import { formatIp, formatMac } from '#core/addr';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import type { KeepsClause } from '#core/notation';
import { live } from '../../queries';

/** Two reservations for one address, or two for one MAC address. */
export const keepDuplicate = check({
  code: 'keep-duplicate',
  *run({ site }) {
    for (const iface of live(site))
      for (const [a, b, nth] of clashing(iface.statement.keeps)) {
        const address = a.address.value === b.address.value;
        yield {
          statement: iface.statement,
          at: b.at,
          values: {
            name: iface.name,
            what: address ? formatIp(b.address.value) : formatMac(b.mac),
            first: a.label ?? (address ? formatMac(a.mac) : formatIp(a.address.value)),
            second: b.label ?? (address ? formatMac(b.mac) : formatIp(b.address.value)),
          },
          mends: [
            {
              what: 'remove-keep',
              values: { who: b.label ?? formatMac(b.mac) },
              changes: changeClauses(site, iface.statement, [{ do: 'remove', name: 'keeps', nth }]),
            },
          ],
        };
      }
  },
});

/** Each keep with the first before it that has its address or its MAC, and its place. */
function* clashing(keeps: readonly KeepsClause[]): Generator<[KeepsClause, KeepsClause, number]> {
  const seen = new Map<string, KeepsClause>();
  for (const [nth, keep] of keeps.entries()) {
    const keys = [`a ${formatIp(keep.address.value)}`, `m ${formatMac(keep.mac)}`];
    const others = new Set(keys.flatMap((key) => seen.get(key) ?? []));
    for (const other of others) yield [other, keep, nth];
    for (const key of keys) if (!seen.has(key)) seen.set(key, keep);
  }
}
