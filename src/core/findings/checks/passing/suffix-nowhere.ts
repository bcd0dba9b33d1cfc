import { formatIp } from '#core/addr';
import type { Ipv6 } from '#core/addr';
import type { Statement, Who } from '#core/notation';
import { suffixed } from '#core/semantics';
import { interfaceNamed } from '#core/site';
import { check } from '../../finding';

/** A host by its suffix on an interface that has no IPv6 network of 64 bits: it stands for nobody. */
export const suffixNowhere = check({
  code: 'suffix-nowhere',
  *run({ site, prospects }) {
    const said: [Statement, readonly Who[]][] = [
      ...site.passages.map((s): [Statement, readonly Who[]] => [s, [...s.sources, ...s.destinations]]),
      ...site.doors.map((s): [Statement, readonly Who[]] => [s, s.sources]),
      ...site.interfaces.map((i): [Statement, readonly Who[]] => [
        i.statement,
        i.answers.flatMap((a) => a.from ?? []),
      ]),
    ];
    for (const [statement, whos] of said)
      for (const who of whos) {
        if (who.type !== 'suffix') continue;
        const at = interfaceNamed(site, who.interface.name);
        if (!at || suffixed(site, prospects, who).length) continue;
        yield {
          statement,
          at: who.at,
          others: [at.statement],
          values: { suffix: formatIp(who.suffix as Ipv6), name: at.name },
        };
      }
  },
});
