import { formatIp } from '#core/addr';
import type { Ipv6 } from '#core/addr';
import { suffixed } from '#core/semantics';
import { interfaceNamed } from '#core/site';
import { check } from '../../finding';
import { spokenOf } from '../../queries';

/** A host by its suffix on an interface that has no IPv6 network of 64 bits: it stands for nobody. */
export const suffixNowhere = check({
  code: 'suffix-nowhere',
  *run({ site, prospects }) {
    for (const [statement, who] of spokenOf(site)) {
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
