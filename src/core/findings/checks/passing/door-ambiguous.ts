import { written } from '#core/notation';
import { formatIp } from '#core/addr';
import { check } from '../../finding';
import { eachDoor, homesOf } from '../../doors';
import { phrase } from '../../queries';

/** A door whose inside address exists in two tables, without saying which is meant. */
export const doorAmbiguous = check({
  code: 'door-ambiguous',
  *run(c) {
    for (const rule of eachDoor(c)) {
      if (rule.on !== undefined) continue;
      const homes = homesOf(c, rule.inside).filter((i) => !i.uplink);
      if (new Set(homes.map((i) => i.table)).size < 2) continue;
      const { statement } = rule;
      const end = written(statement).clauses[0]?.end ?? written(statement).headEnd;
      yield {
        statement,
        at: statement.inside?.at,
        others: homes.map((i) => i.statement),
        values: {
          name: statement.name,
          inside: formatIp(rule.inside),
          homes: phrase(homes.map((i) => `${i.name} (table ${i.table})`)),
        },
        mends: homes.map((i) => ({
          what: 'door-on',
          values: { name: i.name },
          changes: [{ file: statement.file, edits: [{ start: end, end, text: ` on ${i.name}` }] }],
        })),
      };
    }
  },
});
