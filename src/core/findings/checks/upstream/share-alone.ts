import { changeClauses, joinChanges } from '#core/edits';
import { isSharer, shareTogether } from '#core/semantics';
import { check } from '../../finding';
import type { Interface, Site } from '#core/site';
import type { Mend } from '../../finding';
import { live, uplinks } from '../../queries';

/** A share of nothing: no other uplink of its table and priority shares, or it has no default route to share. */
export const shareAlone = check({
  code: 'share-alone',
  *run({ site }) {
    for (const iface of live(site)) {
      const { share, table, priority } = iface.statement;
      if (!share) continue;
      const beside = (i: typeof iface) => i !== iface && i.table === iface.table && i.gateway.by !== 'none';
      const partners = uplinks(site).filter((i) => beside(i) && isSharer(i));
      if (partners.some((i) => shareTogether(i, iface))) continue;
      // Of those that share at unlike places the first is as it is meant.
      if (isSharer(iface) && partners.length && partners.every((i) => order(site, i) > order(site, iface)))
        continue;
      const [other] = isSharer(iface) ? [...partners, ...uplinks(site).filter(beside)] : [];
      const mends: Mend[] = [
        ...(other
          ? [
              {
                what: 'share-beside' as const,
                values: { name: iface.name, other: other.name },
                changes: joinChanges(
                  changeClauses(site, other.statement, [
                    ...(isSharer(other) ? [] : [{ do: 'add' as const, text: 'share 1' }]),
                    ...(other.priority === iface.priority
                      ? []
                      : [{ do: 'set' as const, name: 'priority', text: `priority ${iface.priority}` }]),
                  ]),
                ),
              },
            ]
          : []),
        {
          what: 'remove-word',
          values: { word: `share ${share.value}` },
          changes: changeClauses(site, iface.statement, [{ do: 'remove', name: 'share' }]),
        },
      ];
      yield {
        statement: iface.statement,
        at: share.at,
        values: { name: iface.name, table: table?.name ?? 'main', priority: String(priority?.value ?? 1) },
        mends,
      };
    }
  },
});

const order = (site: Site, iface: Interface): number => site.interfaces.indexOf(iface);
