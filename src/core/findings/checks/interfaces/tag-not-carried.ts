import { changeClauses } from '#core/edits';
import { claimantAt, jackOf, landed, routersOn } from '#core/site';
import { check } from '../../finding';
import { live, phrase } from '../../queries';

/** A tag that the switch on the interface's port does not carry. */
export const tagNotCarried = check({
  code: 'tag-not-carried',
  *run(c) {
    const { site } = c;
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
    // On the way from a jack to the box, where another switch or a jack stands between.
    const told = new Set<string>();
    for (const s of [...c.wiring.stations, ...c.wiring.circuits]) {
      const { landing, statement } = s;
      const stop = landed(landing) ? undefined : landing.stop;
      if (!stop || !statement || landed(landing)) continue;
      const { switch: sw, jack, tag } = stop;
      const iface = claimantAt(site, landing);
      // The first switch is told of by the interface that waits there; a router may be what a VLAN is for.
      if (
        !iface ||
        (jack === undefined && sw.plug?.to === 'port') ||
        routersOn(c.wiring, landing.segment).length
      )
        continue;
      const key = `${sw.name} ${jack ?? ''} ${tag}`;
      if (told.has(key)) continue;
      told.add(key);
      const own = jack === undefined ? undefined : jackOf(sw, jack);
      const carries = (own?.carries ?? sw.carries).map((t) => t.value);
      const all = [...carries, tag].sort((x, y) => x - y).join(' ');
      const nth = sw.jacks.findIndex((j) => j.value.jack === jack);
      yield {
        statement,
        at: statement.plug?.at,
        others: [sw, iface.statement],
        values: {
          name: s.name,
          tag: String(tag),
          switch: jack === undefined ? sw.name : `${sw.name} on jack ${jack}`,
          carries: carries.length ? phrase(carries.map(String)) : 'no tag',
        },
        mends: [
          {
            what: 'carry-tag',
            values: { switch: jack === undefined ? sw.name : `${sw.name} on jack ${jack}`, tag: String(tag) },
            changes: changeClauses(site, sw, [
              own
                ? {
                    do: 'set',
                    name: 'jack',
                    nth,
                    text: `jack ${jack}${own.tag === undefined ? '' : ` tag ${own.tag}`} carries ${all}`,
                  }
                : { do: 'set', name: 'carries', text: `carries ${all}` },
            ]),
          },
        ],
      };
    }
  },
});
