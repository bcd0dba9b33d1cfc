import { changeClauses, joinChanges } from '#core/edits';
import { isSharer, shareTogether } from '#core/semantics';
import { check } from '../../finding';
import { pairs, uplinks } from '../../queries';

/** Two uplinks of one table with the same priority that do not share: the file's order decides. */
export const uplinkTie = check({
  code: 'uplink-tie',
  *run({ site }) {
    for (const [a, b] of pairs(uplinks(site)))
      if (
        a.table === b.table &&
        a.priority === b.priority &&
        a.onDemand === b.onDemand &&
        a.gateway.by !== 'none' &&
        b.gateway.by !== 'none' &&
        !shareTogether(a, b)
      )
        yield {
          statement: b.statement,
          at: b.statement.priority?.at,
          others: [a.statement],
          values: { name: b.name, other: a.name, priority: String(b.priority) },
          mends: [
            {
              what: 'set-priority',
              values: { name: b.name, priority: String(b.priority + 1) },
              changes: changeClauses(site, b.statement, [
                { do: 'set', name: 'priority', text: `priority ${b.priority + 1}` },
              ]),
            },
            {
              what: 'share-both',
              values: { name: b.name, other: a.name },
              changes: joinChanges(
                ...[a, b]
                  .filter((i) => !isSharer(i))
                  .map((i) => changeClauses(site, i.statement, [{ do: 'add', text: 'share 1' }])),
              ),
            },
          ],
        };
  },
});
