import { check } from '../../finding';

/** Ports of one link aggregation that are not of one speed: a standard aggregation takes the like only. */
export const aggregateUnlike = check({
  code: 'aggregate-unlike',
  *run({ site }) {
    for (const { name, over, statement } of site.ports.values()) {
      const parts = over?.ports.flatMap((p) => site.ports.get(p) ?? []) ?? [];
      const [first] = parts;
      const other = parts.find((p) => p.speed !== first?.speed);
      if (!first || !other || !statement) continue;
      const speed = (mbps: number | undefined) => (mbps === undefined ? 'auto' : `${mbps} Mbit/s`);
      yield {
        statement,
        at: statement.over?.at,
        others: [first.statement, other.statement].filter((s) => s !== undefined),
        values: {
          name,
          a: first.name,
          speedA: speed(first.speed),
          b: other.name,
          speedB: speed(other.speed),
        },
      };
    }
  },
});
