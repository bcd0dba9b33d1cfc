/** The order of uplinks. */
import type { FileChange } from '#core/notation';
import type { Interface, Site } from '#core/site';
import { changeClauses, joinChanges } from './change';

/** Uplinks in the order in which they are used: by table, then priority, then the file. */
export function uplinksInOrder(site: Site): Interface[] {
  const tables = [...new Set(site.interfaces.map((i) => i.table))];
  return site.interfaces
    .filter((i) => i.uplink)
    .sort((a, b) => tables.indexOf(a.table) - tables.indexOf(b.table) || a.priority - b.priority);
}

/**
 * Moves an uplink to another place among those of its table, 0 the first. The priorities that were there are given out
 * anew; none that need not change is written.
 */
export function moveUplink(site: Site, name: string, to: number): FileChange[] {
  const moved = site.interfaces.find((i) => i.name === name && i.uplink);
  if (!moved) return [];
  const row = uplinksInOrder(site).filter((i) => i.table === moved.table);
  const priorities: number[] = [];
  for (const { priority } of row) priorities.push(Math.max(priority, (priorities.at(-1) ?? -1) + 1));
  const rest = row.filter((i) => i !== moved);
  const place = Math.max(0, Math.min(to, rest.length));
  const order = [...rest.slice(0, place), moved, ...rest.slice(place)];
  return joinChanges(
    ...order.flatMap((iface, i) =>
      iface.priority === priorities[i]
        ? []
        : [
            changeClauses(site, iface.statement, [
              { do: 'set', name: 'priority', text: `priority ${priorities[i]!}` },
            ]),
          ],
    ),
  );
}
