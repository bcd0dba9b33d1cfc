import { check } from '../../finding';

/** A zone without interfaces. */
export const zoneUnused = check({
  code: 'zone-unused',
  *run({ site }) {
    for (const zone of site.zones)
      if (!site.interfaces.some((i) => i.zone?.name === zone.name))
        yield { statement: zone.statement, values: { name: zone.name } };
  },
});
