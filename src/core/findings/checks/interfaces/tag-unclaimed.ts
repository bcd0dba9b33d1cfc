import { claimantAt, landingOf } from '#core/site';
import { check } from '../../finding';

/** Frames that arrive at the box and that no interface takes: a carried tag, or a station's own. */
export const tagUnclaimed = check({
  code: 'tag-unclaimed',
  *run({ site }) {
    for (const sw of site.switches) {
      if (sw.plug?.to !== 'port') continue;
      for (const { value: tag, at } of sw.carries) {
        if (tag === sw.native || claimantAt(site, { port: sw.plug.port, tag })) continue;
        yield {
          statement: sw,
          at,
          values: { tag: `tag ${tag}`, port: sw.plug.port, who: `switch ${sw.name}` },
        };
      }
    }
    for (const s of [...site.stations, ...site.circuits]) {
      if (s.plug?.to !== 'port' || claimantAt(site, landingOf(site, s.plug))) continue;
      // What is plugged into a part of an aggregation is told by that.
      if (site.ports.get(s.plug.port)?.within !== undefined) continue;
      const tag = s.plug.tag === undefined ? 'untagged frames' : `tag ${s.plug.tag}`;
      yield {
        statement: s,
        at: s.plug.at,
        values: { tag, port: s.plug.port, who: `${s.kind} ${s.name}` },
      };
    }
  },
});
