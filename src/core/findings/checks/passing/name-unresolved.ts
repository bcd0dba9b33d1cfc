import { nearest } from '#core/notation';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import { live } from '../../queries';

/** A name that rules speak of and that leads to nobody: no record, and no far host that is written, is called so. */
export const nameUnresolved = check({
  code: 'name-unresolved',
  *run(c) {
    // Where nobody beyond is written, nothing is known of names either.
    if (!c.site.fars.length || !live(c.site).some((i) => i.uplink)) return;
    for (const known of c.site.knowns) {
      const lost = known.dnsNames.filter((n) => !c.prospects.named.get(n.value)?.length);
      if (!lost.length) continue;
      const like = nearest(
        lost[0]!.value,
        c.site.fars.map((f) => f.name),
      );
      const names = known.dnsNames.map((n) => (n === lost[0] && like !== undefined ? like : n.value));
      yield {
        statement: known,
        at: lost[0]!.at,
        values: { name: known.name, names: lost.map((n) => n.value).join(', ') },
        mends:
          like === undefined
            ? []
            : [
                {
                  what: 'write-instead',
                  values: { text: like },
                  changes: changeClauses(c.site, known, [
                    { do: 'set', name: 'name', text: `name ${names.join(' ')}` },
                  ]),
                },
              ],
      };
    }
  },
});
