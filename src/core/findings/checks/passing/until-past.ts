import { check } from '../../finding';
import { endings } from '../../endings';
import { takeOut } from '../../mending';

/** A passage or door whose last day is over: it takes nothing any more. */
export const untilPast = check({
  code: 'until-past',
  *run(c) {
    for (const { statement, until, left, ...values } of endings(c.site))
      if (left < 0)
        yield {
          statement,
          at: until.at,
          values: { ...values, days: String(-left) },
          mends: [takeOut(c.site, statement)],
        };
  },
});
