import { changeClauses, joinChanges } from '#core/edits';
import { check } from '../../finding';
import { live } from '../../queries';
import { addAnswer } from '../../mending';

/** A pool whose clients are told no resolver. */
export const lendsNoNames = check({
  code: 'lends-no-names',
  *run({ site }) {
    if (site.box?.servesNames || site.box?.names.length) return;
    for (const iface of live(site)) {
      const pool = iface.statement.lends.find((p) => !p.names.length);
      if (!pool) continue;
      const { box } = site;
      yield {
        statement: iface.statement,
        at: pool.at,
        values: { name: iface.name },
        mends: box
          ? [
              {
                what: 'serve-names',
                values: { name: iface.name },
                changes: joinChanges(
                  changeClauses(site, box, [{ do: 'add', text: 'serves names' }]),
                  iface.answers.some((a) => a.services.some((s) => s.name === 'dns'))
                    ? []
                    : addAnswer(site, iface, 'dns'),
                ),
              },
            ]
          : [],
      };
    }
  },
});
