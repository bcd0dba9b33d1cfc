import { formatIp, formatRangeShort, rangeContains } from '#core/addr';
import type { Ip } from '#core/addr';
import { changeClauses } from '#core/edits';
import type { Statement } from '#core/notation';
import { stationsOf } from '#core/site';
import { check } from '../../finding';
import { inside, live, phrase } from '../../queries';
import { rangesText, withoutAddresses } from '../../mending';

/** An address that somebody has, and who. */
interface Fixed {
  readonly address: Ip;
  readonly who: string;
  readonly statement: Statement;
}

/** A pool that holds an address somebody has fixed: a station, a known host, or a keep of another interface. */
export const lendsCoversFixed = check({
  code: 'lends-covers-fixed',
  *run(c) {
    const everywhere: Fixed[] = c.site.knowns.flatMap((k) =>
      k.items.flatMap(({ value }) =>
        value.range.first === value.range.last
          ? [{ address: value.range.first, who: `known ${k.name}`, statement: k }]
          : [],
      ),
    );
    const kept = live(c.site).flatMap((owner) =>
      owner.statement.keeps.map((k) => ({
        owner,
        address: k.address.value,
        who: `a keep of ${owner.name}`,
        statement: owner.statement,
      })),
    );
    for (const iface of inside(c.site)) {
      const fixed: Fixed[] = [
        ...stationsOf(c.wiring, iface).flatMap((s) =>
          s.address && s.statement && !s.off
            ? [
                {
                  address: s.address.address,
                  who: `station ${s.name}`,
                  statement: s.statement,
                },
              ]
            : [],
        ),
        ...everywhere,
        ...kept.filter((k) => k.owner !== iface),
      ];
      const mine = new Set(iface.statement.keeps.map((k) => k.address.value));
      for (const pool of iface.statement.lends)
        for (const { value, at } of pool.ranges) {
          const hits = fixed.filter((f) => rangeContains(value, f.address) && !mine.has(f.address));
          if (!hits.length) continue;
          const left = withoutAddresses(
            value,
            hits.map((h) => h.address),
          );
          yield {
            statement: iface.statement,
            at,
            others: [...new Set(hits.map((h) => h.statement))],
            values: {
              name: iface.name,
              range: formatRangeShort(value),
              hits: phrase(hits.map((h) => `${formatIp(h.address)} (${h.who})`)),
            },
            mends: left.length
              ? [
                  {
                    what: 'use-range',
                    values: { range: rangesText(left) },
                    changes: changeClauses(c.site, iface.statement, [
                      { do: 'replace', start: at.start, end: at.end, text: rangesText(left) },
                    ]),
                  },
                ]
              : [],
          };
        }
    }
  },
});
