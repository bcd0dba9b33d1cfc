/** The order of uplinks. */
import type { FileChange } from '#core/notation';
import { shareTogether } from '#core/semantics';
import type { Interface, Site } from '#core/site';
import { changeClauses, joinChanges } from './change';

/** Uplinks in the order in which they are used: by table, those on demand last, then priority, then the file. */
export function uplinksInOrder(site: Site): Interface[] {
  const tables = [...new Set(site.interfaces.map((i) => i.table))];
  return site.interfaces
    .filter((i) => i.uplink)
    .sort(
      (a, b) =>
        tables.indexOf(a.table) - tables.indexOf(b.table) ||
        Number(a.onDemand) - Number(b.onDemand) ||
        a.priority - b.priority,
    );
}

/**
 * Moves an uplink to another place among those of its table, 0 the first. The priorities that were there are given out
 * anew; none that need not change is written. Uplinks that share stay together: nobody comes between them.
 */
export function moveUplink(site: Site, name: string, to: number): FileChange[] {
  const row = uplinksInOrder(site);
  const moved = row.find((i) => i.name === name);
  if (!moved) return [];
  const table = row.filter((i) => i.table === moved.table);
  // Who is on demand comes behind all others, whatever its priority.
  const mine = table.filter((i) => i.onDemand === moved.onDemand);
  const from = mine.indexOf(moved);
  const place = Math.max(0, Math.min(to - table.indexOf(mine[0]!), mine.length - 1));
  const rest = together(mine.filter((i) => i !== moved));
  // Up into some that share is up before them, down is down behind them.
  let before = 0;
  for (let seen = 0; before < rest.length; before++) {
    const size = rest[before]!.length;
    if (place < from ? seen + size > place : seen >= place) break;
    seen += size;
  }
  const groups = together(mine);
  // Among its like there is no order.
  if (groups.some((group) => group.includes(moved) && group.includes(mine[place]!))) return [];
  const order = [...rest.slice(0, before), [moved], ...rest.slice(before)];
  const levels: number[] = [];
  for (const [first] of groups) levels.push(Math.max(first!.priority, (levels.at(-1) ?? -1) + 1));
  while (levels.length < order.length) levels.push(levels.at(-1)! + 1);
  return joinChanges(
    ...order.flatMap((group, i) =>
      group
        .filter((iface) => iface.priority !== levels[i])
        .map((iface) =>
          changeClauses(site, iface.statement, [
            { do: 'set', name: 'priority', text: `priority ${levels[i]!}` },
          ]),
        ),
    ),
  );
}

/** Uplinks in their order, those that share as one. */
function together(row: readonly Interface[]): Interface[][] {
  const out: Interface[][] = [];
  for (const iface of row) {
    const last = out.at(-1)?.[0];
    if (last && shareTogether(last, iface)) out.at(-1)!.push(iface);
    else out.push([iface]);
  }
  return out;
}
