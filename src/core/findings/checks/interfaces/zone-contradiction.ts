import { changeClauses } from '#core/edits';
import { check } from '../../finding';

/** A zone that is both the internet's side and a dmz. */
export const zoneContradiction = check({
  code: 'zone-contradiction',
  *run({ site }) {
    for (const zone of site.zones)
      if (zone.upstream && zone.dmz)
        yield {
          statement: zone.statement,
          at: zone.statement.dmz,
          values: { name: zone.name },
          mends: ['dmz', 'upstream'].map((name) => ({
            what: 'remove-word',
            values: { word: name },
            changes: changeClauses(site, zone.statement, [{ do: 'remove', name }]),
          })),
        };
  },
});
