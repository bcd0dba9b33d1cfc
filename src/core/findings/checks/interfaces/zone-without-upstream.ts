import { changeClauses } from '#core/edits';
import { check } from '../../finding';

/** A box with zones of which none faces the internet. */
export const zoneWithoutUpstream = check({
  code: 'zone-without-upstream',
  *run({ site }) {
    const first = site.zones[0];
    if (!first || site.zones.some((z) => z.upstream)) return;
    yield {
      statement: first.statement,
      values: { name: first.name },
      mends: [
        {
          what: 'make-upstream',
          values: { zone: first.name },
          changes: changeClauses(site, first.statement, [{ do: 'add', text: 'upstream' }]),
        },
      ],
    };
  },
});
