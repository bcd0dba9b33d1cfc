import { check } from '../../finding';
import { takeOut } from '../../mending';

/** Everything from everywhere to everywhere. */
export const passageOpen = check({
  code: 'passage-open',
  *run(c) {
    for (const r of c.rules.passages)
      if (
        r.from === 'any' &&
        r.to === 'any' &&
        r.verdict === 'allow' &&
        r.services.some((s) => s.kind === 'any') &&
        !r.sources &&
        !r.destinations
      )
        yield {
          statement: r.statement,
          values: {},
          mends: [takeOut(c.site, r.statement)],
        };
  },
});
