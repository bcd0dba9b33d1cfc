import { changeClauses } from '#core/edits';
import { check } from '../../finding';

/** An interface without a zone: nothing passes through it. */
export const noZone = check({
  code: 'no-zone',
  *run({ site }) {
    for (const iface of site.interfaces) {
      if (iface.statement.zone) continue;
      const likely =
        iface.dynamic || iface.gateway.by !== 'none'
          ? site.zones.filter((z) => z.upstream)
          : site.zones.filter((z) => !z.upstream);
      yield {
        statement: iface.statement,
        values: { name: iface.name },
        mends: likely.slice(0, 3).map((z) => ({
          what: 'set-zone',
          values: { zone: z.name },
          changes: changeClauses(site, iface.statement, [
            { do: 'set', name: 'zone', text: `zone ${z.name}` },
          ]),
        })),
      };
    }
  },
});
