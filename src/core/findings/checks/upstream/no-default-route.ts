import { formatIp, isIpv4 } from '#core/addr';
import { changeClauses } from '#core/edits';
import { check } from '../../finding';
import { primaryAddress } from '#core/site';
import { boxPlace, boxSubject, live, networks4, statedCircuits } from '../../queries';

/** A routing table without a default route: an error where something wants to leave by it, else advice. */
export const noDefaultRoute = check({
  code: 'no-default-route',
  *run(c) {
    const { site } = c;
    const tables = new Set(live(site).map((i) => i.table));
    for (const table of tables) {
      const members = live(site).filter((i) => i.table === table);
      // A table that only speaks IPv6 is the business of no-default-route6.
      if (members.every((i) => i.speaks6 && !i.dynamic && !primaryAddress(i))) continue;
      const written = site.tables.some(
        (t) => t.name === table && t.routes.some((r) => r.prefix.length === 0 && isIpv4(r.prefix.address)),
      );
      if (written || members.some((i) => i.gateway.by !== 'none')) continue;
      const four = members.filter(
        (i) => i.dynamic !== undefined || networks4(c, i).length > 0 || i.statement.address !== undefined,
      );
      const upstream = four.find((i) => i.zone?.upstream);
      const zones = new Set(four.map((i) => i.zone?.name));
      const outward = site.passages.find(
        (p) =>
          p.verdict === 'allow' &&
          (p.from.name === 'any' || zones.has(p.from.name)) &&
          site.zones.some((z) => z.upstream && (z.name === p.to.name || p.to.name === 'any')),
      );
      const place = upstream?.statement ?? boxPlace(site);
      if (!place) continue;
      const circuit = upstream && statedCircuits(c, upstream).find((x) => x.gateway !== undefined);
      yield {
        statement: place,
        subject: upstream ? undefined : boxSubject(site),
        severity: upstream || outward ? 'error' : 'advice',
        others: outward ? [outward] : [],
        values: { table, name: upstream?.name ?? '' },
        mends:
          upstream && circuit?.gateway !== undefined
            ? [
                {
                  what: 'use-gateway',
                  values: { address: formatIp(circuit.gateway), circuit: circuit.name },
                  changes: changeClauses(site, upstream.statement, [
                    { do: 'set', name: 'gateway', text: `gateway ${formatIp(circuit.gateway)}` },
                  ]),
                },
              ]
            : [],
      };
    }
  },
});
