import { check } from '../../finding';
import { endings } from '../../endings';

/** How many days ahead an end is told of. */
const SOON = 14;

/** A passage or door that ends within a fortnight. */
export const untilSoon = check({
  code: 'until-soon',
  *run(c) {
    for (const { statement, until, left, ...values } of endings(c.site))
      if (left >= 0 && left <= SOON)
        yield { statement, at: until.at, values: { ...values, days: String(left) } };
  },
});
