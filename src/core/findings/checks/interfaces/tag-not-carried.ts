import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import { live, phrase } from '../../queries';

/** A tag that the switch on the interface's port does not carry. */
export const tagNotCarried = check({
  code: 'tag-not-carried',
  *run({ site }) {
    for (const iface of live(site)) {
      if (iface.tag === undefined) continue;
      for (const sw of site.switches) {
        if (sw.plug?.to !== 'port' || !iface.ports.includes(sw.plug.port)) continue;
        if (sw.native === iface.tag || sw.carries.some((t) => t.value === iface.tag)) continue;
        const carries = sw.carries.map((t) => t.value);
        yield {
          statement: iface.statement,
          at: iface.statement.carrier?.tag?.at,
          others: [sw],
          values: {
            name: iface.name,
            tag: String(iface.tag),
            switch: sw.name,
            carries: carries.length ? phrase(carries.map(String)) : 'no tag',
          },
          mends: [
            {
              what: 'carry-tag',
              values: { switch: sw.name, tag: String(iface.tag) },
              changes: changeClauses(site, sw, [
                {
                  do: 'set',
                  name: 'carries',
                  text: `carries ${[...carries, iface.tag].sort((x, y) => x - y).join(' ')}`,
                },
              ]),
            },
          ],
        };
      }
    }
  },
});
