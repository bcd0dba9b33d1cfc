import { isIpv4, isPrivate } from '#core/addr';
import { changeClauses } from '#core/edits';
import { networksOf } from '#core/site';
import { check } from '../../finding';
import { live, statedCircuits, useGateway } from '../../queries';

/** A routing table that has IPv6 and a way upstream, but no IPv6 default route. */
export const noDefaultRoute6 = check({
  code: 'no-default-route6',
  *run(c) {
    const { site } = c;
    for (const table of new Set(live(site).map((i) => i.table))) {
      const members = live(site).filter((i) => i.table === table);
      const written = site.tables.some(
        (t) => t.name === table && t.routes.some((r) => r.prefix.length === 0 && !isIpv4(r.prefix.address)),
      );
      if (written || members.some((i) => i.gateway6.by !== 'none')) continue;
      const upstream = members.find((i) => i.zone?.upstream && i.speaks6);
      const outward = members.find(
        (i) =>
          !i.uplink &&
          networksOf(i, c.prospects).some((n) => !isIpv4(n.address) && !isPrivate(n.address)) &&
          c.rules.passages.some(
            (r) =>
              r.verdict === 'allow' &&
              (r.from === 'any' || r.from === i.zone?.name) &&
              site.zones.some((z) => z.upstream && (r.to === 'any' || r.to === z.name)),
          ),
      );
      const place = upstream ?? outward;
      if (!place) continue;
      const circuit = upstream && statedCircuits(c, upstream).find((x) => x.gateway6 !== undefined);
      yield {
        statement: place.statement,
        others: upstream && outward ? [outward.statement] : [],
        values: { table, name: place.name },
        mends: upstream
          ? [
              ...(circuit?.block6 && circuit.gateway6 !== undefined
                ? [useGateway(site, upstream, 'gateway6', circuit.gateway6, circuit)]
                : []),
              {
                what: 'learn-gateway6',
                values: { name: upstream.name },
                changes: changeClauses(site, upstream.statement, [
                  { do: 'set', name: 'gateway6', text: 'gateway6 learned' },
                ]),
              },
            ]
          : [],
      };
    }
  },
});
