import { check } from '../../finding';

/** A link aggregation of one port: there is nothing to go on with when that fails. */
export const aggregateOneMember = check({
  code: 'aggregate-one-member',
  *run({ site }) {
    for (const { name, over, statement } of site.ports.values())
      if (over?.ports.length === 1 && statement)
        yield { statement, at: statement.over?.at, values: { name, port: over.ports[0]! } };
  },
});
