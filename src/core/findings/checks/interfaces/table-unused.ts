import { check } from '../../finding';

/** A routing table without interfaces. */
export const tableUnused = check({
  code: 'table-unused',
  *run({ site }) {
    for (const table of site.tables)
      if (table.name !== 'main' && !site.interfaces.some((i) => i.table === table.name))
        yield { statement: table, values: { name: table.name } };
  },
});
