import { isPrivate } from '#core/addr';
import { changeClauses } from '#core/edits';
import { primaryOf } from '#core/site';
import { check } from '../../finding';
import { uplinks } from '../../queries';

/** An upstream interface that does not refuse forged sources. */
export const guardMissing = check({
  code: 'guard-missing',
  *run(c) {
    for (const iface of uplinks(c.site)) {
      if (!iface.zone?.upstream || iface.guard) continue;
      const own = primaryOf(iface, c.prospects);
      // Behind another router guard would refuse what starts there: then it is no advice to give.
      if (own && isPrivate(own.address)) continue;
      yield {
        statement: iface.statement,
        values: { name: iface.name },
        mends: [
          {
            what: 'add-guard',
            values: { name: iface.name },
            changes: changeClauses(c.site, iface.statement, [{ do: 'add', text: 'guard' }]),
          },
        ],
      };
    }
  },
});
